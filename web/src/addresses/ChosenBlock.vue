<script setup lang="ts">
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import type { Usage } from '@/api/types'
import { routeOf } from '@/app/places'
import { useOpenDesign } from '@/design/useDesignSession'
import type { Block } from './lanes'

const TYPES = { network: 'network', reserved: 'prefix-reservation', shown: 'translation' } as const

const props = defineProps<{ block: Block; usage: Usage | undefined }>()
const emit = defineEmits<{ open: [panel: string, id: string]; close: [] }>()
const { designId, change } = useOpenDesign()

const use = computed(() => props.usage?.networks.find((network) => network.network_id === props.block.id))
const type = computed(() => TYPES[props.block.kind])
const sentence = computed(() => {
  if (props.block.kind === 'reserved') return 'Reserved, and not used yet.'
  if (props.block.kind === 'shown') return 'What a translation shows in place of the real addresses.'
  const grows = use.value?.grows_to ? ` It can grow to ${use.value.grows_to}.` : ''
  const of = props.block.text.includes(':') ? '' : ` of ${use.value?.capacity}`
  return use.value ? `${use.value.taken}${of} addresses are spoken for.${grows}` : ''
})
function release(): void {
  void change(
    [{ op: 'remove', type: type.value, id: props.block.id, cascade: true }],
    `Remove ${type.value} ${props.block.name}`,
  )
  emit('close')
}
</script>

<template>
  <section class="chosen" aria-label="Chosen on the ruler">
    <strong>{{ block.name }}</strong>
    <span class="figures">{{ block.text }}</span>
    <span v-if="block.collides" class="field-error">collides</span>
    <span class="muted sentence" :title="sentence">{{ sentence }}</span>
    <span class="buttons">
      <template v-if="block.kind === 'network'">
        <ElButton @click="emit('open', 'renumber', block.id)"> Renumber … </ElButton>
        <ElButton @click="emit('open', 'translate', block.id)"> Translate … </ElButton>
      </template>
      <ElButton v-else @click="release">
        {{ block.kind === 'reserved' ? 'Give it up' : 'Remove' }}
      </ElButton>
      <ElButton :tag="RouterLink" :to="routeOf(designId, { type, id: block.id, field: 'prefix' })"
        >Edit</ElButton
      >
      <ElButton aria-label="Close" @click="emit('close')">×</ElButton>
    </span>
  </section>
</template>

<style scoped>
.chosen {
  display: flex;
  gap: 12px;
  align-items: center;
  padding: 6px 16px;
  background: var(--card);
  border-bottom: 1px solid var(--line);
}
.sentence {
  flex: 1;
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.buttons {
  display: flex;
  gap: 4px;
  margin-left: auto;
}
</style>
