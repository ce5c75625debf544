<script setup lang="ts">
import { computed } from 'vue'
import type { Row, Side, Tunnel } from '@/api/types'
import { isSame, madeLike, withBothOffered } from './copying'

/** What can be done with a row at once, beside editing a value. */
const props = defineProps<{ tunnel: Tunnel; row: Row; names: Record<Side, string> }>()
const emit = defineEmits<{ put: [tunnel: Tunnel, note: string] }>()

const hasLists = computed(() => props.row.ladder !== null)
const differs = computed(() => !isSame(props.tunnel, props.row))

function makeLike(side: Side): void {
  const far = props.names[side === 'left' ? 'right' : 'left']
  emit(
    'put',
    madeLike(props.tunnel, [props.row], side),
    `Make ${props.names[side]} like ${far}: ${props.row.title}`,
  )
}
function offerBoth(): void {
  emit('put', withBothOffered(props.tunnel, props.row), `Offer both at both ends: ${props.row.title}`)
}
</script>

<template>
  <div v-if="differs" class="actions" role="cell">
    <ElButton @click="makeLike('left')">← Make left like right</ElButton>
    <ElButton v-if="hasLists" @click="offerBoth">Offer both</ElButton>
    <ElButton @click="makeLike('right')">Make right like left →</ElButton>
  </div>
</template>

<style scoped>
.actions {
  display: flex;
  grid-column: 1 / -1;
  gap: 8px;
  justify-content: center;
  padding: 2px 0 4px;
}
@media print {
  .actions {
    display: none;
  }
}
</style>
