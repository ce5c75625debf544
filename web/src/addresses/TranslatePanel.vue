<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { api, bodyOf } from '@/api/client'
import type { TranslationPlan } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import DataTable, { type TableColumn } from '@/ui/DataTable.vue'

/** Living with a collision: showing a network as something else, and all that follows from it. */
const props = defineProps<{ networkId: string }>()
const emit = defineEmits<{ done: [] }>()
const { design, designId, revision, change } = useOpenDesign()
const chosen = ref(0)

const network = computed(() => design.value?.networks.find((candidate) => candidate.id === props.networkId))
const site = computed(() => design.value?.sites.find((candidate) => candidate.id === network.value?.site_id))
const path = computed(() => ({ design_id: designId.value, network_id: props.networkId }))
const { data: options, isPending } = useQuery({
  queryKey: ['translations', path, revision],
  queryFn: () =>
    bodyOf(
      api.GET('/api/designs/{design_id}/networks/{network_id}/translations', {
        params: { path: path.value },
      }),
    ),
})
const option = computed(() => options.value?.[chosen.value])
const sections = (plan: TranslationPlan) =>
  [
    ["The tunnels' ends", plan.selectors],
    ['Routes', plan.routes],
    ['Names', plan.names],
    ['Stops working', plan.stops],
    ['Protocols that carry addresses inside', plan.protocols],
  ] as const

async function carryOut(): Promise<void> {
  if (option.value && (await change(option.value.operations, option.value.title.slice(0, 200)))) emit('done')
}
watch(options, () => (chosen.value = 0))

const COLUMNS: TableColumn[] = [
  { name: 'what', title: 'What' },
  { name: 'real', title: 'Real', figures: true },
  { name: 'seen', title: 'Seen as', figures: true },
]
</script>

<template>
  <section v-if="network" class="translate" aria-label="Translate a network">
    <h2>
      {{ site?.name }}: {{ network.name }} <span class="figures muted">{{ network.prefix }}</span>
    </h2>
    <p v-if="isPending" class="muted">Working it out …</p>
    <p v-else-if="!options?.length" class="muted">
      Nothing collides with it across a tunnel, and there is no free space to show it as.
    </p>
    <template v-else>
      <ElRadioGroup v-model="chosen" aria-label="Ways to translate it">
        <ElRadio v-for="(choice, at) in options" :key="choice.title" :value="at">{{ choice.title }}</ElRadio>
      </ElRadioGroup>
      <ElButton type="primary" @click="carryOut">Do it as one change</ElButton>
      <article v-for="plan in option?.plans" :key="plan.translation.id">
        <h3>
          <span class="figures">{{ plan.translation.inside }}</span> is seen as
          <span class="figures">{{ plan.translation.outside }}</span>
        </h3>
        <p>Done {{ plan.where }}. Seen by {{ plan.seen_by }}.</p>
        <DataTable :rows="plan.table" :columns="COLUMNS" class="seen" label="What is seen as what" />
        <dl>
          <template v-for="[title, said] in sections(plan)" :key="title">
            <template v-if="said.length">
              <dt>{{ title }}</dt>
              <dd v-for="line in said" :key="line">{{ line }}</dd>
            </template>
          </template>
        </dl>
      </article>
    </template>
  </section>
  <p v-else class="translate muted">This network is not in the design any more.</p>
</template>

<style scoped>
.translate {
  padding: 8px 16px;
}
.el-radio-group {
  display: flex;
  flex-direction: column;
  align-items: start;
  margin: 6px 0;
}
.seen {
  max-width: 640px;
}
article {
  margin-top: 10px;
  padding-top: 8px;
  border-top: 1px solid var(--line);
}
dt {
  font-size: 12px;
  font-weight: 500;
  color: var(--muted);
}
dl {
  margin: 4px 0;
}
dd {
  margin: 0 0 2px;
}
</style>
