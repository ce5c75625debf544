<script setup lang="ts">
import { computed, watchEffect } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { putOf } from '@/design/kinds'
import { freshId } from '@/design/ids'
import { useOpenDesign } from '@/design/useDesignSession'
import ForecastStrip from '@/ui/ForecastStrip.vue'
import ViewTabs from '@/ui/ViewTabs.vue'
import CallPanel from './CallPanel.vue'
import DayPanel from './DayPanel.vue'
import ProfileEnds from './ProfileEnds.vue'
import ProfileSettings from './ProfileSettings.vue'
import RolloutPanel from './RolloutPanel.vue'
import SplitPanel from './SplitPanel.vue'
import { useProfileMatch } from './usePeople'

/** People who dial in: a profile is the second end of a tunnel that has very many first ends. */
const PANELS = {
  ends: 'Both ends',
  settings: 'When and where',
  split: 'What goes through',
  day: 'A device’s day',
  call: 'A call',
  rollout: 'Roll-out',
} as const

const route = useRoute()
const router = useRouter()
const session = useOpenDesign()
const { design, change } = session
const profileId = computed(() => String(route.params.profileId ?? ''))
const panel = computed(() => String(route.params.panel || 'ends'))
const profile = computed(() => design.value?.profiles.find((candidate) => candidate.id === profileId.value))
const { data: matched } = useProfileMatch(
  session,
  computed(() => (profile.value ? profileId.value : '')),
)

watchEffect(() => {
  const first = design.value?.profiles[0]
  if (route.name === 'people' && !profileId.value && first)
    void router.replace({ name: 'people', params: { designId: design.value?.id, profileId: first.id } })
})
function open(name: string): void {
  const params = {
    designId: design.value?.id,
    profileId: profileId.value,
    panel: name === 'ends' ? '' : name,
  }
  void router.push({ name: 'people', params })
}
const gateways = computed(() => design.value?.gateways ?? [])
async function addProfile(): Promise<void> {
  const taken = new Set((design.value?.profiles ?? []).map((known) => known.id))
  const [gateway] = gateways.value
  if (!gateway) return
  const id = freshId('new profile', taken)
  const object = { id, name: `New profile ${taken.size + 1}`, gateway_id: gateway.id }
  if (await change([putOf('profile', object)], 'Add a profile'))
    void router.push({
      name: 'people',
      params: { designId: design.value?.id, profileId: id, panel: 'settings' },
    })
}
</script>

<template>
  <div v-if="design" class="people">
    <nav class="profiles" aria-label="Profiles">
      <ul>
        <li v-for="known in design.profiles" :key="known.id">
          <RouterLink
            class="profile"
            :class="{ here: known.id === profileId }"
            :to="{
              name: 'people',
              params: { designId: design.id, profileId: known.id, panel: route.params.panel },
            }"
          >
            <span class="name">{{ known.name }}</span>
            <span class="muted">{{ known.groups.join(', ') || 'no group yet' }}</span>
          </RouterLink>
        </li>
      </ul>
      <ElButton :disabled="!gateways.length" @click="addProfile">Add a profile</ElButton>
      <p v-if="!gateways.length" class="muted">First add the gateway that people dial, in the Survey.</p>
    </nav>
    <div v-if="profile" class="one">
      <header>
        <h2>{{ profile.name }}</h2>
        <template v-if="matched">
          <ForecastStrip :forecast="matched.forecast" />
          <p class="sentence" :class="matched.forecast.state" role="status">
            A device at home: {{ matched.forecast.sentence }}
          </p>
        </template>
      </header>
      <ViewTabs
        :key="profile.id"
        class="panels"
        :tabs="PANELS"
        label="People"
        :model-value="panel"
        @update:model-value="open($event)"
      >
        <ProfileSettings v-if="panel === 'settings'" :profile="profile" />
        <SplitPanel v-else-if="panel === 'split'" :profile="profile" />
        <DayPanel v-else-if="panel === 'day'" :profile="profile" />
        <CallPanel v-else-if="panel === 'call'" :profile="profile" />
        <RolloutPanel v-else-if="panel === 'rollout'" :profile="profile" />
        <ProfileEnds v-else-if="matched" :profile="profile" :matched="matched" />
      </ViewTabs>
    </div>
    <p v-else-if="!design.profiles.length" class="empty">
      Nobody dials in yet. Add a profile: for whom it is, which gateway they dial, and what goes through.
    </p>
    <p v-else-if="profileId" class="empty">There is no profile of this name in the design any more.</p>
  </div>
</template>

<style scoped>
.people {
  display: grid;
  flex: 1;
  grid-template-columns: 184px minmax(0, 1fr);
  min-height: 0;
}
.profiles {
  padding: 10px;
  border-right: 1px solid var(--line);
}
.profiles ul {
  padding: 0;
  margin: 0 0 10px;
  list-style: none;
}
.profile {
  display: grid;
  padding: 6px 8px;
  color: var(--ink);
  text-decoration: none;
  border-left: 3px solid transparent;
}
.profile.here {
  background: var(--card);
  border-left-color: var(--verdigris);
}
.profile .name {
  font-weight: 600;
}
.one {
  display: flex;
  flex-direction: column;
  min-width: 0;
  min-height: 0;
}
header {
  padding: 10px 16px 4px;
}
h2 {
  margin-bottom: 6px;
  font-size: 16px;
}
.sentence {
  padding-top: 4px;
  font-size: 15px;
  font-weight: 500;
}
.panels {
  flex: 1;
  min-height: 0;
}
.empty {
  padding: 32px;
}
@media (max-width: 1020px) {
  .people {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
