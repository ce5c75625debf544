<script setup lang="ts">
import { computed, ref, useTemplateRef } from 'vue'
import SuggestField from '@/ui/SuggestField.vue'
import type { Column } from './columns'
import { membersIn } from './columns'

/** The members of a list, a line each, beside the cell in which they are typed: the text and the form are one. */
const props = defineProps<{ column: Column; names: readonly string[]; label: string }>()
const emit = defineEmits<{ save: []; cancel: [] }>()
const text = defineModel<string>({ required: true })

const BRACKETS = /^(.*?)\s*\(([^)]*)\)$/

const root = useTemplateRef<HTMLElement>('root')
const added = ref('')
const members = computed(() =>
  membersIn(text.value).map((member) => {
    const [, name = member, inside = ''] = BRACKETS.exec(member) ?? []
    const limits = inside.split(',').map((one) => one.trim().split(/\s+/))
    return { name, limits: Object.fromEntries(limits.filter(([word]) => word)) as Record<string, string> }
  }),
)
const explained = computed(() => {
  const limits = props.column.parts.map(({ word }, at) => `${word} ${[60, 20, 2][at] ?? 1}`).join(', ')
  if (limits)
    return `Typed: names with ; between them, limits in brackets: ${props.names[0] ?? 'name'} (${limits})`
  if (props.column.form === 'structure') return 'Typed: skerry.example by 10.64.8.10, with ; between several'
  const example = props.column.example || props.names[0]
  return `Typed with ; between several${example ? `, such as ${example}` : ''}`
})

function write(all: { name: string; limits: Record<string, string> }[]): void {
  text.value = all
    .map(({ name, limits }) => {
      const inside = Object.entries(limits).filter(([, value]) => value)
      return inside.length ? `${name} (${inside.map((one) => one.join(' ')).join(', ')})` : name
    })
    .join('; ')
}
function drop(at: number): void {
  write(members.value.filter((_, other) => other !== at))
}
function moveUp(at: number): void {
  const all = [...members.value]
  all.splice(at - 1, 0, ...all.splice(at, 1))
  write(all)
}
function limit(at: number, word: string, value: number | null | undefined): void {
  write(
    members.value.map((one, other) =>
      other === at ? { ...one, limits: { ...one.limits, [word]: String(value ?? '') } } : one,
    ),
  )
}
function add(name: string): void {
  if (name.trim()) write([...members.value, { name: name.trim(), limits: {} }])
  added.value = ''
}
const free = computed(() => {
  const taken = new Set(members.value.map((one) => one.name))
  return props.names.filter((name) => !taken.has(name))
})
defineExpose({ holds: (element: Node | null) => root.value?.contains(element) ?? false })
</script>

<template>
  <ElPopover visible placement="bottom-start" width="360" :persistent="false" :hide-after="0">
    <template #reference><span class="anchor" aria-hidden="true" /></template>
    <div ref="root" role="group" :aria-label="`Members: ${label}`" @keydown.esc.stop="emit('cancel')">
      <p class="muted told">{{ explained }}</p>
      <ol v-if="members.length">
        <li v-for="(member, at) in members" :key="at">
          <span class="name" :class="{ figures: column.figures }">{{ member.name }}</span>
          <ElInputNumber
            v-for="part in column.parts"
            :key="part.word"
            :model-value="member.limits[part.word] ? Number(member.limits[part.word]) : undefined"
            :min="0"
            :controls="false"
            :placeholder="part.word"
            :aria-label="`${part.title} of ${member.name}`"
            :title="part.title"
            @change="limit(at, part.word, $event)"
          />
          <ElButton v-if="at" link :aria-label="`Move ${member.name} up`" @click="moveUp(at)">↑</ElButton>
          <ElButton link :aria-label="`Take ${member.name} out`" @click="drop(at)">×</ElButton>
        </li>
      </ol>
      <div class="add">
        <SuggestField
          v-if="names.length"
          v-model="added"
          :names="free"
          :teleported="false"
          placeholder="add …"
          :label="`Add to ${column.title}`"
          @chosen="add"
          @key="(event, choosing) => event.key === 'Enter' && !choosing && add(added)"
        />
        <ElInput
          v-else
          v-model="added"
          :class="{ figures: column.figures }"
          :placeholder="column.example || 'add …'"
          :aria-label="`Add to ${column.title}`"
          @keydown.enter.stop.prevent="add(added)"
        />
        <ElButton :disabled="!added.trim()" @click="add(added)">Add</ElButton>
        <ElButton type="primary" @click="emit('save')">Save</ElButton>
      </div>
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
  font-size: 12px;
}
ol {
  max-height: 220px;
  padding: 0;
  margin: 6px 0;
  overflow: auto;
  list-style: none;
}
li {
  display: flex;
  gap: 4px;
  align-items: center;
  padding: 2px 0;
  border-bottom: 1px solid var(--line);
}
.name {
  flex: 1;
  min-width: 0;
  overflow-wrap: anywhere;
}
.el-input-number {
  width: 62px;
}
.el-input-number :deep(.el-input__wrapper) {
  padding: 0 4px;
}
.add {
  display: flex;
  gap: 4px;
  margin-top: 6px;
}
</style>
