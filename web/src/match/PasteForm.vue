<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, bodyOf } from '@/api/client'
import type { Design, Match, Side, Tunnel } from '@/api/types'
import { reasonOf } from '@/design/refusals'
import { useAnswer } from '@/design/useAnswer'
import { useOpenDesign } from '@/design/useDesignSession'
import ChangeTable from '@/ui/ChangeTable.vue'
import SelectField from '@/ui/SelectField.vue'

/** What a partner has filled in, read line by line into the partner's end, and taken over as one change. */
const props = defineProps<{ design: Design; tunnel: Tunnel; match: Match }>()
const { designId, revision, change } = useOpenDesign()

const ends = computed(() => [
  { value: 'left' as Side, label: props.match.left_name },
  { value: 'right' as Side, label: props.match.right_name },
])
/** Likely the end at a partner's site. */
function likely(): Side {
  const siteOf = (side: Side) =>
    props.design.gateways.find((gateway) => gateway.id === props.tunnel[side].gateway_id)?.site_id
  const partner = (side: Side) =>
    props.design.sites.find((site) => site.id === siteOf(side))?.kind === 'partner'
  return partner('left') && !partner('right') ? 'left' : 'right'
}
const side = ref<Side>(likely())
/** A partner's answer comes along from their link. */
const brought: unknown = (history.state as { form?: unknown } | null)?.form
const text = ref(typeof brought === 'string' ? brought : '')
const { answer, problem, settled } = useAnswer(
  'form',
  () =>
    text.value.trim()
      ? { revision: revision.value, tunnel_id: props.tunnel.id, body: { side: side.value, text: text.value } }
      : null,
  ({ tunnel_id, body }, signal) => {
    const params = { path: { design_id: designId.value, tunnel_id } }
    return bodyOf(api.POST('/api/designs/{design_id}/tunnels/{tunnel_id}/form', { params, body, signal }))
  },
)
const open = computed(() => answer.value?.lines.filter((line) => line.state !== 'understood').length ?? 0)
const name = computed(() => ends.value.find((end) => end.value === side.value)?.label ?? '')
const ready = computed(() => Boolean(answer.value?.operations.length) && !open.value && settled.value)

/** Put a choice in the place of its line; a line that isn't wanted is taken out. */
function replace(number: number, choice: string | null): void {
  const lines = text.value.split('\n')
  lines.splice(number - 1, 1, ...(choice === null ? [] : [choice]))
  text.value = lines.join('\n')
}
async function takeOver(): Promise<void> {
  const operations = answer.value?.operations ?? []
  if (await change(operations, `Fill in ${name.value}'s end from a form`)) text.value = ''
}
</script>

<template>
  <div class="form">
    <SelectField v-model="side" label="It is about the end of" :options="ends" />
    <ElInput
      v-model="text"
      type="textarea"
      class="figures"
      :rows="7"
      spellcheck="false"
      aria-label="What the partner has filled in"
      placeholder="Our gateway: 203.0.113.77&#10;Phase 1: AES-256, SHA-256, DH group 14, 28,800 s&#10;Our networks: 10.90.4.0/24"
    />
    <p v-if="problem" class="field-error" role="alert">{{ reasonOf(problem) }}</p>
    <div class="buttons">
      <ElButton type="primary" :disabled="!ready" @click="takeOver">Take over into {{ name }}’s end</ElButton>
      <span v-if="open" class="asked" role="status"
        >{{ open === 1 ? '1 line is' : `${open} lines are` }} to be settled first</span
      >
      <span v-else-if="answer && !answer.operations.length" class="muted">It changes nothing.</span>
    </div>
    <ul v-if="answer" class="lines" aria-label="Line by line">
      <li v-for="line in answer.lines" :key="line.number" :class="line.state">
        <span class="figures said">{{ line.text }}</span>
        <span class="meaning">{{ line.meaning }}</span>
        <span v-if="line.state !== 'understood'" class="choices">
          <ElButton v-for="choice in line.choices" :key="choice" @click="replace(line.number, choice)">{{
            choice
          }}</ElButton>
          <ElButton link @click="replace(line.number, null)">Leave this line out</ElButton>
        </span>
      </li>
    </ul>
    <ChangeTable v-if="answer?.fields.length" :changes="answer.fields" />
  </div>
</template>

<style scoped>
.form {
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.buttons,
.choices {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
}
.asked {
  color: var(--ochre);
}
.lines {
  max-height: 260px;
  margin: 0;
  padding: 0;
  overflow: auto;
  list-style: none;
}
li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 0 10px;
  padding: 2px 0;
  border-bottom: 1px solid var(--line);
}
.choices {
  grid-column: 1 / -1;
}
.meaning {
  color: var(--verdigris);
}
.ambiguous .meaning {
  color: var(--ochre);
}
.unknown .meaning {
  color: var(--madder);
}
</style>
