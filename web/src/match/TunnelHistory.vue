<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, toRef } from 'vue'
import { api, bodyOf } from '@/api/client'
import { useOpenDesign } from '@/design/useDesignSession'
import ChangeTable from '@/ui/ChangeTable.vue'
import { dateAndTime } from '@/ui/words'

const props = defineProps<{ tunnelId: string }>()
const { designId, revision } = useOpenDesign()
const tunnelId = toRef(props, 'tunnelId')
const { data } = useQuery({
  queryKey: ['tunnel history', designId, tunnelId, revision],
  queryFn: () => {
    const params = { path: { design_id: designId.value }, query: { tunnel: tunnelId.value } }
    return bodyOf(api.GET('/api/designs/{design_id}/changes', { params }))
  },
})
const changes = computed(() => data.value?.changes ?? [])
const ofTunnel = computed(() =>
  changes.value.map((change) => ({
    ...change,
    fields: change.fields.filter((field) => field.type === 'tunnel' && field.id === tunnelId.value),
  })),
)
</script>

<template>
  <p v-if="data && !changes.length" class="muted">Nothing of this tunnel was changed yet.</p>
  <ol v-else>
    <li v-for="change in ofTunnel" :key="change.revision">
      <strong class="figures">{{ change.revision }}</strong>
      {{ change.kind === 'edit' ? '' : `${change.kind}: ` }}{{ change.note }}
      <span class="muted">{{ change.author }}, {{ dateAndTime(change.made_at) }}</span>
      <ChangeTable :changes="change.fields" />
    </li>
  </ol>
</template>

<style scoped>
ol {
  margin: 0;
  padding: 0;
  list-style: none;
}
</style>
