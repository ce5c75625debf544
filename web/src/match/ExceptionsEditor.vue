<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive } from 'vue'
import { api, bodyOf } from '@/api/client'
import type { Tunnel } from '@/api/types'
import { putOf } from '@/design/kinds'
import { useChangeHere } from '@/design/useChangeHere'
import SelectField from '@/ui/SelectField.vue'

/** Exceptions from the algorithm policy in one tunnel: what, until when, and who answers for it. */
const props = defineProps<{ tunnel: Tunnel; policyName: string }>()
const { changeHere, trouble } = useChangeHere()
const { data: registry } = useQuery({
  queryKey: ['transforms'],
  queryFn: () => bodyOf(api.GET('/api/transforms')),
  staleTime: Infinity,
})
const fresh = reactive({ code: '', until: '', acceptedBy: '' })

const doubtful = computed(() =>
  (registry.value ?? []).filter((row) => row.level === 'weak' || row.level === 'retired'),
)
const doubtfulChoices = computed(() =>
  doubtful.value.map((row) => ({ value: `${row.type}/${row.id}`, label: `${row.label} (${row.level})` })),
)
const ready = computed(() => fresh.code && fresh.until && fresh.acceptedBy.trim())

function labelOf(type: string, id: number): string {
  return registry.value?.find((row) => row.type === type && row.id === id)?.label ?? `${type} ${id}`
}
function put(exceptions: Tunnel['exceptions'], note: string): Promise<boolean> {
  return changeHere([putOf('tunnel', { ...props.tunnel, exceptions })], note)
}
async function add(): Promise<void> {
  const row = doubtful.value.find((candidate) => `${candidate.type}/${candidate.id}` === fresh.code)
  if (!row) return
  const exception = { type: row.type, id: row.id, until: fresh.until, accepted_by: fresh.acceptedBy.trim() }
  if (await put([...props.tunnel.exceptions, exception], `Accept ${row.label} until ${fresh.until}`))
    Object.assign(fresh, { code: '', until: '', acceptedBy: '' })
}
function drop(at: number): void {
  void put(
    props.tunnel.exceptions.filter((_, other) => other !== at),
    'Take an exception from the algorithm policy back',
  )
}
</script>

<template>
  <div>
    <p class="muted">
      The policy in force is <strong>{{ policyName }}</strong>. What it refuses can be accepted in this tunnel
      until a day, if somebody answers for it.
    </p>
    <ul>
      <li v-for="(exception, at) in tunnel.exceptions" :key="at">
        <strong>{{ labelOf(exception.type, exception.id) }}</strong> until
        <span class="figures">{{ exception.until }}</span>, accepted by {{ exception.accepted_by }}
        <ElButton @click="drop(at)">Take back</ElButton>
      </li>
    </ul>
    <form class="line" @submit.prevent="add">
      <SelectField v-model="fresh.code" label="Algorithm" :options="doubtfulChoices" />
      <span class="day">
        <span aria-hidden="true">until</span>
        <ElDatePicker
          v-model="fresh.until"
          type="date"
          value-format="YYYY-MM-DD"
          aria-label="until"
          placeholder="day"
        />
      </span>
      <label>accepted by <ElInput v-model="fresh.acceptedBy" maxlength="80" /></label>
      <ElButton native-type="submit" :disabled="!ready">Accept</ElButton>
    </form>
    <p v-if="trouble" class="field-error" role="alert">{{ trouble }}</p>
  </div>
</template>

<style scoped>
ul {
  margin: 4px 0;
  padding-left: 16px;
}
.line {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
  --el-date-editor-width: 130px;
}
.line :is(label, .day) {
  display: flex;
  gap: 6px;
  align-items: center;
}
</style>
