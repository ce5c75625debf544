<script setup lang="ts">
import { computed, ref } from 'vue'
import SuggestField from '@/ui/SuggestField.vue'
import type { Column } from './columns'
import { membersIn } from './columns'

/** The members of a list, a line each with its limits: they are added, moved, limited and taken out. Its value is their text. */
const props = defineProps<{
  column: Column
  names: readonly string[] // what may be added, or what is offered
  inPopover?: boolean // a list that opened elsewhere would close it
}>()
defineSlots<{ default: () => unknown }>()
const text = defineModel<string>({ required: true })

const BRACKETS = /^(.*?)\s*\(([^)]*)\)$/

const added = ref('')
const members = computed(() =>
  membersIn(text.value).map((member) => {
    const [, name = member, inside = ''] = BRACKETS.exec(member) ?? []
    const limits = inside.split(',').map((part) => part.trim().split(/\s+/))
    return { name, limits: Object.fromEntries(limits.filter(([word]) => word)) as Record<string, string> }
  }),
)

function write(all: { name: string; limits: Record<string, string> }[]): void {
  text.value = all
    .map(({ name, limits }) => {
      const inside = Object.entries(limits).filter(([, value]) => value)
      return inside.length ? `${name} (${inside.map((pair) => pair.join(' ')).join(', ')})` : name
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
    members.value.map((member, other) =>
      other === at ? { ...member, limits: { ...member.limits, [word]: String(value ?? '') } } : member,
    ),
  )
}
function add(name: string): void {
  if (name.trim()) write([...members.value, { name: name.trim(), limits: {} }])
  added.value = ''
}
const free = computed(() => {
  const taken = new Set(members.value.map((member) => member.name))
  return props.names.filter((name) => !taken.has(name))
})
</script>

<template>
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
      :teleported="!inPopover"
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
      @blur="add(added)"
    />
    <ElButton
      :disabled="!added.trim()"
      :aria-label="`Add what is typed to ${column.title}`"
      @click="add(added)"
      >Add</ElButton
    >
    <slot />
  </div>
</template>

<style scoped>
ol {
  width: 100%;
  max-height: 220px;
  padding: 0;
  margin: 0 0 6px;
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
.add {
  display: flex;
  flex: 1;
  gap: 4px;
}
</style>
