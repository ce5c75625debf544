<script setup lang="ts">
import { computed, useTemplateRef } from 'vue'
import MemberList from './MemberList.vue'
import type { Column } from './columns'

/** The members of a list beside the cell in which they are typed: the text and the form are one. */
const props = defineProps<{ column: Column; names: readonly string[]; label: string }>()
const emit = defineEmits<{ save: []; cancel: [] }>()
const text = defineModel<string>({ required: true })

const root = useTemplateRef<HTMLElement>('root')
const explained = computed(() => {
  const limits = props.column.parts.map(({ word }, at) => `${word} ${[60, 20, 2][at] ?? 1}`).join(', ')
  if (limits)
    return `Typed: names with ; between them, limits in brackets: ${props.names[0] ?? 'name'} (${limits})`
  if (props.column.form === 'structure') return 'Typed: skerry.example by 10.64.8.10, with ; between several'
  const example = props.column.example || props.names[0]
  return `Typed with ; between several${example ? `, such as ${example}` : ''}`
})
defineExpose({ holds: (element: Node | null) => root.value?.contains(element) ?? false })
</script>

<template>
  <ElPopover visible placement="bottom-start" width="360" :persistent="false" :hide-after="0">
    <template #reference><span class="anchor" aria-hidden="true" /></template>
    <div ref="root" role="group" :aria-label="`Members: ${label}`" @keydown.esc.stop="emit('cancel')">
      <p class="muted told">{{ explained }}</p>
      <MemberList v-model="text" :column="column" :names="names" in-popover>
        <ElButton type="primary" @click="emit('save')">Save</ElButton>
      </MemberList>
    </div>
  </ElPopover>
</template>

<style scoped>
.anchor {
  position: absolute;
  bottom: 0;
  left: 0;
}
.told {
  margin-bottom: 6px;
  font-size: 12px;
}
</style>
