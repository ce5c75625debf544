<script setup lang="ts">
import { useEventListener, watchDebounced } from '@vueuse/core'
import type { InputInstance } from 'element-plus'
import { ref, useTemplateRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, bodyOf } from '@/api/client'
import type { Hit } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import { vCombobox } from '@/ui/combobox'
import { routeOf } from './places'

const router = useRouter()
const { designId } = useOpenDesign()
const text = ref('')
const hits = ref<Hit[] | null>(null) // null while nothing is asked
const active = ref(0)
const field = useTemplateRef<InputInstance>('field')

async function ask(question: string): Promise<void> {
  if (!question.trim()) {
    hits.value = null
    return
  }
  const params = { path: { design_id: designId.value }, query: { q: question } }
  const found = await bodyOf(api.GET('/api/designs/{design_id}/find', { params })).catch(() => [])
  if (question !== text.value) return // typed on meanwhile
  hits.value = found
  active.value = 0
}
function go(hit: Hit | undefined): void {
  if (!hit) return
  leave()
  void router.push(routeOf(designId.value, hit))
}
function leave(): void {
  text.value = ''
  hits.value = null
}
function onKey(event: Event | KeyboardEvent): void {
  if (!(event instanceof KeyboardEvent)) return
  const last = (hits.value?.length ?? 0) - 1
  if (event.key === 'ArrowDown') active.value = Math.min(active.value + 1, last)
  else if (event.key === 'ArrowUp') active.value = Math.max(active.value - 1, 0)
  else if (event.key === 'Enter') go(hits.value?.[active.value])
  else if (event.key === 'Escape') leave()
  else return
  event.preventDefault()
}
/** What is chosen is in sight, however long the list. */
watch(active, (at) => document.getElementById(`find-hit-${at}`)?.scrollIntoView({ block: 'nearest' }), {
  flush: 'post',
})
watchDebounced(text, ask, { debounce: 120 })
useEventListener(document, 'keydown', (event: KeyboardEvent) => {
  if (event.key !== '/' || (event.target as HTMLElement).closest('input, textarea, select')) return
  event.preventDefault()
  field.value?.focus()
})
</script>

<template>
  <div class="find-field">
    <ElInput
      ref="field"
      v-model="text"
      v-combobox="{
        listId: 'find-hits',
        expanded: hits !== null,
        activeId: hits?.length ? `find-hit-${active}` : undefined,
      }"
      aria-label="Find or ask: name, prefix or address"
      aria-autocomplete="list"
      placeholder="Find or ask: name, prefix, address  ( / )"
      autocomplete="off"
      spellcheck="false"
      @keydown="onKey"
      @blur="leave"
    />
    <ul v-show="hits !== null" id="find-hits" role="listbox" aria-label="What was found">
      <li
        v-for="(hit, at) in hits"
        :id="`find-hit-${at}`"
        :key="hit.type + hit.id"
        role="option"
        :aria-selected="at === active"
        @mousedown.prevent="go(hit)"
      >
        <span>{{ hit.name }}</span>
        <span class="muted detail" :title="hit.detail">{{ hit.type }} · {{ hit.detail }}</span>
      </li>
      <li v-if="hits?.length === 0" role="option" aria-selected="false" aria-disabled="true" class="muted">
        Nothing in this design.
      </li>
    </ul>
  </div>
</template>

<style scoped>
.find-field {
  position: relative;
}
ul {
  position: absolute;
  z-index: 10;
  right: 0;
  min-width: 100%;
  max-width: 480px;
  max-height: 320px;
  margin: 2px 0 0;
  padding: 4px 0;
  overflow: auto;
  list-style: none;
  background: var(--card);
  border: 1px solid var(--muted);
  border-radius: 3px;
}
li {
  display: flex;
  gap: 12px;
  justify-content: space-between;
  padding: 4px 10px;
  white-space: nowrap;
  cursor: pointer;
}
li[aria-selected='true'] {
  background: var(--verdigris-wash);
}
.detail {
  overflow: hidden;
  text-overflow: ellipsis;
}
</style>
