<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { watchDebounced } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { api, bodyOf, Refusal } from '@/api/client'
import { reasonOf } from '@/design/refusals'
import { useOpenDesign } from '@/design/useDesignSession'
import ChangeTable from '@/ui/ChangeTable.vue'
import SelectField from '@/ui/SelectField.vue'
import { versionOf } from './blocks'
import { useOffers } from './useSpace'

/** Moving a network: where to, in which steps, what each client does, and the moment when one's own connection goes. */
const props = defineProps<{ networkId: string }>()
const emit = defineEmits<{ done: [] }>()
const session = useOpenDesign()
const { design, designId, revision, change } = session

const network = computed(() => design.value?.networks.find((candidate) => candidate.id === props.networkId))
const site = computed(() => design.value?.sites.find((candidate) => candidate.id === network.value?.site_id))
const target = ref('')
const workingFrom = ref('')
const typed = ref('') // the prefix, once typing pauses
const siteId = computed(() => network.value?.site_id ?? '')
const length = computed(() => Number(network.value?.prefix.split('/')[1] ?? 0))
const version = computed(() => versionOf(network.value?.prefix ?? ''))
const offers = useOffers(session, siteId, length, version)
const seats = computed(() => {
  const names = new Map((design.value?.sites ?? []).map((anySite) => [anySite.id, anySite.name]))
  const networks = (design.value?.networks ?? []).map((anyNetwork) => ({
    value: anyNetwork.id,
    label: `${names.get(anyNetwork.site_id)}: ${anyNetwork.name}`,
  }))
  return [{ value: '', label: 'elsewhere' }, ...networks]
})

const asked = computed(() => ({ prefix: typed.value.trim() || null, working_from: workingFrom.value }))
/** The plan of what stands in the form; an answer about an older prefix or revision is never taken for it. */
const { data: plan, error } = useQuery({
  queryKey: ['renumbering', designId, () => props.networkId, revision, asked],
  queryFn: ({ signal }) =>
    bodyOf(
      api.POST('/api/designs/{design_id}/networks/{network_id}/renumbering', {
        params: { path: { design_id: designId.value, network_id: props.networkId } },
        body: asked.value,
        signal,
      }),
    ),
  enabled: computed(() => Boolean(network.value)),
})
const trouble = computed(() => (error.value instanceof Refusal ? reasonOf(error.value.problem) : ''))
watch(plan, (found) => {
  if (found && !target.value) target.value = typed.value = found.after
})
async function carryOut(): Promise<void> {
  if (!plan.value || !network.value) return
  const note = `Renumber ${site.value?.name}'s ${network.value.name} to ${plan.value.after}`
  if (await change([plan.value.operation], note)) emit('done')
}
watchDebounced(target, (now) => (typed.value = now), { debounce: 300 })
</script>

<template>
  <section v-if="network" class="renumber" aria-label="Renumber a network">
    <form class="question" @submit.prevent="carryOut">
      <h2>
        {{ site?.name }}: {{ network.name }} <span class="figures muted">{{ network.prefix }}</span>
      </h2>
      <label
        >moves to
        <ElInput
          v-model="target"
          class="figures"
          aria-label="New prefix"
          spellcheck="false"
          :aria-invalid="trouble !== ''"
      /></label>
      <ElButton
        v-for="offer in offers?.slice(0, 3)"
        :key="offer.prefix"
        class="figures"
        :title="`The site would fit into ${offer.summary}`"
        @click="target = offer.prefix"
      >
        {{ offer.prefix }}
      </ElButton>
      <SelectField v-model="workingFrom" label="I am working from" :options="seats" />
      <ElButton type="primary" native-type="submit" :disabled="!plan">Do it as one change</ElButton>
      <p v-if="trouble" class="field-error" role="alert">{{ trouble }}</p>
    </form>
    <div v-if="plan" class="plan">
      <p class="moment">{{ plan.moment }}</p>
      <div class="columns">
        <div>
          <h3>Steps</h3>
          <ol>
            <li v-for="step in plan.steps" :key="step.title">
              <strong>{{ step.title }}</strong> <span class="muted">at {{ step.where }}</span>
              <ul>
                <li v-for="detail in step.details" :key="detail">{{ detail }}</li>
              </ul>
              <p v-if="step.loses" class="loses">Lost at this moment: {{ step.loses }}</p>
            </li>
          </ol>
        </div>
        <div>
          <h3>What each client does</h3>
          <p v-if="!plan.clients.length" class="muted">No host and no DHCP range of it is known.</p>
          <ul class="clients">
            <li v-for="client in plan.clients" :key="client.who">
              {{ client.who }} <span v-if="client.by_hand" class="tag">by hand</span>
              <span class="muted">{{ client.what }}</span>
            </li>
          </ul>
          <h3>What changes in the design</h3>
          <ChangeTable :changes="plan.changes" />
        </div>
      </div>
    </div>
  </section>
  <p v-else class="renumber muted">This network is not in the design any more.</p>
</template>

<style scoped>
.renumber {
  padding: 8px 16px;
}
.question {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 10px;
  align-items: center;
}
.question p {
  width: 100%;
}
.question .el-input {
  --el-input-width: 130px;
}
.moment {
  margin: 8px 0;
  padding: 6px 10px;
  background: var(--ochre-wash);
  border-left: 3px solid var(--ochre);
}
.columns {
  display: grid;
  grid-template-columns: minmax(0, 3fr) minmax(0, 2fr);
  gap: 20px;
}
ol {
  margin: 4px 0;
  padding-left: 18px;
}
ul {
  margin: 2px 0 6px;
  padding-left: 16px;
}
.loses {
  margin-bottom: 6px;
  color: var(--ochre);
}
.clients {
  padding: 0;
  list-style: none;
}
.tag {
  padding: 0 4px;
  font-size: 11px;
  color: var(--ochre);
  border: 1px solid var(--ochre);
  border-radius: 3px;
}
</style>
