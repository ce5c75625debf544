<script setup lang="ts">
import { watchDebounced } from '@vueuse/core'
import { computed, onMounted, ref, useTemplateRef } from 'vue'
import { Refusal } from '@/api/client'
import type { Design } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import type { Grid } from './columns'
import { MOST_CHARACTERS, readPaste } from './paste'

const props = defineProps<{ grid: Grid; design: Design; text: string }>()
const emit = defineEmits<{ close: [] }>()
const { change, tryChange } = useOpenDesign()

const typed = ref(props.text.slice(0, MOST_CHARACTERS + 1))
const refused = ref<Record<number, string>>({}) // by position of the operation
const trouble = ref('')
const area = useTemplateRef<HTMLTextAreaElement>('area')

const pasted = computed(() => readPaste(typed.value, props.grid, props.design))
const lines = computed(() =>
  pasted.value.rows.map((row) => {
    const reason = row.operationAt === null ? undefined : refused.value[row.operationAt]
    return reason ? { ...row, outcome: 'wrong' as const, detail: reason } : row
  }),
)
const wrong = computed(() => lines.value.filter((line) => line.outcome === 'wrong').length)
const ready = computed(() => pasted.value.operations.length > 0 && !wrong.value && !trouble.value)
const expected = computed(() => props.grid.columns.map((column) => column.title.toLowerCase()).join(', '))
const count = computed(() => lines.value.filter((line) => ['new', 'changes'].includes(line.outcome)).length)

async function check(): Promise<void> {
  refused.value = {}
  trouble.value = pasted.value.trouble
  if (!pasted.value.operations.length) return
  try {
    await tryChange(pasted.value.operations)
  } catch (error) {
    if (!(error instanceof Refusal)) throw error
    place(error)
  }
}
/** Put each reason of the server beside the row that it is about. */
function place(refusal: Refusal): void {
  const found: Record<number, string> = {}
  for (const error of refusal.problem.errors) {
    const at = /^\/operations\/(\d+)/.exec(error.pointer)
    if (at) found[Number(at[1])] ??= error.detail
  }
  refused.value = found
  if (!Object.keys(found).length) trouble.value = refusal.problem.detail
}
async function takeOver(): Promise<void> {
  const what = count.value === 1 ? '1 row' : `${count.value} rows`
  if (await change(pasted.value.operations, `Paste ${what} into ${props.grid.title.toLowerCase()}`))
    emit('close')
}
watchDebounced(() => [typed.value, props.design.revision], check, { debounce: 250, immediate: true })
onMounted(() => area.value?.focus())
</script>

<template>
  <section class="paste" :aria-label="`Paste into ${grid.title}`" @keydown.esc="emit('close')">
    <div class="text">
      <label :for="`paste-${grid.name}`"
        >Rows, as <span class="figures">{{ expected }}</span> (the rest may be left out)</label
      >
      <textarea
        :id="`paste-${grid.name}`"
        ref="area"
        v-model="typed"
        class="figures"
        rows="8"
        spellcheck="false"
        @paste.stop
      />
      <div class="buttons">
        <button class="plain-button primary" type="button" :disabled="!ready" @click="takeOver">
          {{ count === 1 ? 'Take over 1 row' : `Take over ${count} rows` }}
        </button>
        <button class="plain-button" type="button" @click="emit('close')">Leave it</button>
        <span v-if="wrong" class="field-error"
          >{{ wrong === 1 ? '1 row is' : `${wrong} rows are` }} to be mended first</span
        >
      </div>
    </div>
    <div class="preview">
      <p v-if="trouble" class="field-error" role="alert">{{ trouble }}</p>
      <p v-if="pasted.newSites.length" class="muted">New sites: {{ pasted.newSites.join(', ') }}</p>
      <ol>
        <li v-for="line in lines" :key="line.line" :class="line.outcome">
          <span class="figures number">{{ line.line }}</span>
          <span class="figures cells">{{ line.cells.join(' · ') }}</span>
          <span class="detail">{{ line.detail }}</span>
        </li>
      </ol>
    </div>
  </section>
</template>

<style scoped>
.paste {
  display: grid;
  grid-template-columns: minmax(260px, 1fr) minmax(300px, 1.3fr);
  gap: 16px;
  padding: 12px 16px;
  background: var(--card);
  border-top: 1px solid var(--verdigris);
  border-bottom: 1px solid var(--verdigris);
}
textarea {
  display: block;
  width: 100%;
  margin: 4px 0 8px;
  padding: 6px 8px;
  background: var(--paper);
  border: 1px solid var(--line);
  border-radius: 3px;
  resize: vertical;
}
.buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
}
.preview {
  max-height: 240px;
  overflow: auto;
}
ol {
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  display: grid;
  grid-template-columns: 28px minmax(0, 1fr) auto;
  gap: 8px;
  padding: 2px 0;
  border-bottom: 1px solid var(--line);
}
.number {
  color: var(--muted);
  text-align: right;
}
.cells {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
li.wrong .detail {
  grid-column: 2 / -1;
  color: var(--madder);
}
li.same .detail {
  color: var(--muted);
}
</style>
