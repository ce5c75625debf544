<script setup lang="ts">
import { watchDebounced } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { api, bodyOf } from '@/api/client'
import type { Profile } from '@/api/types'
import { reasonOf, reasonsByField } from '@/design/refusals'
import { useAnswer } from '@/design/useAnswer'
import { useOpenDesign } from '@/design/useDesignSession'
import SelectField from '@/ui/SelectField.vue'
import LeaseCourse from './LeaseCourse.vue'
import { useSupposed } from '@/paths/useSupposed'

/** What of people's traffic goes through: the routes their devices get, what is forgotten and leaks, and the octets for DHCP. */
const props = defineProps<{ profile: Profile }>()
const { asked, set } = useSupposed()
const { design, designId, revision, change } = useOpenDesign()

type Mode = Profile['mode']
const MODES: { value: Mode; label: string }[] = [
  { value: 'all', label: 'everything' },
  { value: 'only', label: 'only these' },
  { value: 'all-but', label: 'all but these' },
]
const profile = computed(() => props.profile)
const mode = ref<Mode>('all')
const networks = ref('')
const most = ref('')
const router = ref(asked('router'))
const defaultInside = ref(asked('default') === 'inside')
const octets = ref(asked('octets'))

watch(
  [profile, revision],
  () => {
    if (!profile.value) return
    mode.value = (asked('mode') as Mode) || profile.value.mode
    networks.value = asked('networks') || profile.value.networks.join(', ')
    most.value = asked('most') || String(profile.value.most_routes ?? '')
  },
  { immediate: true },
)
/** The address of the view says what is tried, as far as it isn't the profile's own. */
function remember(): void {
  const own = profile.value
  if (!own) return
  set({
    mode: mode.value === own.mode ? undefined : mode.value,
    networks: networks.value === own.networks.join(', ') ? undefined : networks.value,
    most: most.value === String(own.most_routes ?? '') ? undefined : most.value,
    router: router.value,
    default: defaultInside.value ? 'inside' : undefined,
    octets: octets.value,
  })
}
const listed = computed(() => networks.value.split(/[\s,;]+/).filter(Boolean))
const changed = computed(
  () =>
    profile.value &&
    (mode.value !== profile.value.mode ||
      listed.value.join() !== profile.value.networks.join() ||
      (Number(most.value) || null) !== profile.value.most_routes),
)
const networkName = computed(() => {
  const sites = new Map((design.value?.sites ?? []).map((site) => [site.id, site.name]))
  return new Map(
    (design.value?.networks ?? []).map((network) => [
      network.id,
      `${sites.get(network.site_id)}: ${network.name} ${network.prefix}`,
    ]),
  )
})

const { answer: plan, problem } = useAnswer(
  'split',
  () =>
    profile.value
      ? {
          revision: revision.value,
          profile_id: profile.value.id,
          body: {
            mode: mode.value,
            networks: mode.value === 'all' ? [] : listed.value,
            most: Number(most.value) || null,
            router: router.value,
            default_inside: defaultInside.value,
          },
        }
      : null,
  ({ profile_id, body }, signal) => {
    const params = { path: { design_id: designId.value, profile_id } }
    return bodyOf(api.POST('/api/designs/{design_id}/paths/split/{profile_id}', { params, body, signal }))
  },
)
const troubles = computed(() => reasonsByField(problem.value))
watchDebounced([mode, networks, most, router, defaultInside], remember, { debounce: 200 })

const { answer: decoded, problem: unreadOctets } = useAnswer(
  'octets',
  () => octets.value.trim() || null,
  (text, signal) => bodyOf(api.POST('/api/dhcp-routes', { body: { octets: text }, signal })),
)
const octetsTrouble = computed(() => reasonOf(unreadOctets.value))
watchDebounced(octets, remember, { debounce: 200 })
async function keep(): Promise<void> {
  if (!profile.value) return
  const object = {
    ...profile.value,
    mode: mode.value,
    networks: mode.value === 'all' ? [] : listed.value,
    most_routes: Number(most.value) || null,
  }
  if (await change([{ op: 'put-profile', object }], `Change what goes through ${profile.value.name}`))
    remember()
}
/** Let the pool hand out these routes: what becomes of the leases that are there stands below. */
const handOut = () => plan.value && change(plan.value.operations, 'Hand out these routes by DHCP')
const grouped = (hex: string) => hex.match(/../g)?.join(' ') ?? ''
</script>

<template>
  <section class="split plain-fields" aria-label="What goes through">
    <template v-if="design">
      <div class="ask">
        <SelectField v-model="mode" label="Goes through" :options="MODES" />
        <label v-if="mode !== 'all'" class="wide">
          Networks
          <ElInput
            v-model="networks"
            class="figures"
            :aria-invalid="Boolean(troubles.networks)"
            spellcheck="false"
          />
        </label>
        <label>Most routes <ElInput v-model="most" class="short figures" inputmode="numeric" /></label>
        <ElButton type="primary" :disabled="!changed" @click="keep">Save</ElButton>
      </div>
      <p v-if="troubles.networks" class="field-error" role="alert">{{ troubles.networks }}</p>
      <p v-if="troubles.most" class="field-error" role="alert">{{ troubles.most }}</p>
      <div v-if="plan" class="answer">
        <div class="block">
          <h3>
            {{ plan.routes.prefixes.length }} {{ plan.routes.prefixes.length === 1 ? 'route' : 'routes' }}
            <span v-if="plan.routes.limit" :class="plan.routes.fits ? 'muted' : 'bad'">{{
              plan.routes.fits ? `of ${plan.routes.limit} allowed` : `but only ${plan.routes.limit} allowed`
            }}</span>
          </h3>
          <p class="figures list">{{ plan.routes.prefixes.join('  ') || 'none' }}</p>
          <template v-if="!plan.routes.fits">
            <p v-if="plan.routes.summary.length <= (plan.routes.limit ?? 0)">
              With {{ plan.routes.waste }} other addresses these {{ plan.routes.summary.length }} do:
            </p>
            <p v-else class="bad">
              Even with {{ plan.routes.waste }} other addresses it takes {{ plan.routes.summary.length }};
              fewer would turn the split around:
            </p>
            <p class="figures list">{{ plan.routes.summary.join('  ') }}</p>
          </template>
        </div>
        <div class="block">
          <h3>What the client sees</h3>
          <p v-for="leak in plan.leaks" :key="leak" class="bad">{{ leak }}.</p>
          <p v-if="plan.forgotten.length" class="bad">
            Beside the tunnel, though the gateway leads there:
            {{ plan.forgotten.map((id) => networkName.get(id) ?? id).join(', ') }}.
          </p>
          <p v-else>Nothing that the gateway leads to is forgotten.</p>
          <p
            v-if="plan.people !== null && plan.pool_room !== null"
            :class="{ bad: plan.people > plan.pool_room }"
          >
            {{ plan.people }} people, {{ plan.pool_room }} addresses handed out by the pool.
          </p>
          <ul>
            <li v-for="line in plan.resolvers" :key="line">{{ line }}</li>
          </ul>
          <p class="muted">{{ plan.leases }}</p>
        </div>
        <div class="block">
          <h3>Handed out by DHCP, option 121</h3>
          <label
            >Router <ElInput v-model="router" class="figures" placeholder="10.64.30.1" spellcheck="false"
          /></label>
          <ElCheckbox v-model="defaultInside">Default route inside</ElCheckbox>
          <p v-if="plan.trouble" class="field-error" role="alert">{{ plan.trouble }}</p>
          <template v-if="plan.option">
            <p class="figures octets">{{ grouped(plan.option) }}</p>
            <p class="muted">
              {{ plan.option.length / 2 }} octets{{
                plan.option_fits ? '' : ', split over several options (RFC 3396)'
              }}. Clients that take this option ignore option 3 (RFC 3442):
              {{
                defaultInside
                  ? 'with the default route inside, everything goes through the tunnel.'
                  : 'what isn’t listed keeps the default route that they have beside the tunnel.'
              }}
            </p>
          </template>
          <ElButton v-if="plan.operations.length" @click="handOut">Hand these out</ElButton>
          <p v-else-if="!plan.trouble && !plan.option" class="muted">
            Name the router, and the octets stand here.
          </p>
        </div>
        <LeaseCourse v-if="plan.course" class="block" :course="plan.course" />
        <div class="block">
          <h3>Read octets</h3>
          <ElInput
            v-model="octets"
            class="figures"
            placeholder="18 0a 41 00 0a 40 00 01"
            aria-label="Octets of option 121"
            :aria-invalid="Boolean(octetsTrouble)"
            spellcheck="false"
          />
          <p v-if="octetsTrouble" class="field-error" role="alert">{{ octetsTrouble }}</p>
          <ul>
            <li v-for="line in decoded?.routes" :key="line" class="figures">{{ line }}</li>
          </ul>
        </div>
      </div>
    </template>
  </section>
</template>

<style scoped>
.split {
  padding: 10px 16px;
}
.ask {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 14px;
  align-items: center;
}
.wide {
  flex: 1 1 260px;
}
.wide .el-input {
  --el-input-width: 100%;
}
.short {
  --el-input-width: 64px;
}
.answer {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(320px, 1fr));
  gap: 12px;
  padding: 12px 0;
}
.block {
  min-width: 0;
  padding: 8px 12px;
  background: var(--card);
  border: 1px solid var(--line);
  border-radius: 3px;
}
.block h3 {
  margin-bottom: 6px;
}
.bad {
  color: var(--madder);
}
.list {
  max-height: 160px;
  overflow: auto;
  white-space: pre-wrap;
}
.octets {
  padding: 6px 0;
  overflow-wrap: anywhere;
}
.read {
  display: flex;
  gap: 8px;
}
ul {
  padding-left: 16px;
  margin: 4px 0;
}
</style>
