<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, bodyOf } from '@/api/client'
import type { Design, Match, Standard, Tunnel } from '@/api/types'
import { putOf } from '@/design/kinds'
import { useAnswer } from '@/design/useAnswer'
import { useOpenDesign } from '@/design/useDesignSession'
import SelectField from '@/ui/SelectField.vue'
import { OUTLOOK_WORDS } from '@/ui/words'

/** The standard of a tunnel: which it follows, where it departs, and a standard made of one that works. */
const props = defineProps<{ design: Design; tunnel: Tunnel; match: Match }>()
const { designId, revision, change } = useOpenDesign()

const NONE = { value: '', label: 'none' }
const choices = computed(() => [
  NONE,
  ...props.design.standards.map((choice) => ({ value: choice.id, label: choice.name })),
])
const chosen = ref(props.tunnel.standard_id ?? '')
const standard = computed(
  () => props.design.standards.find((candidate) => candidate.id === chosen.value) ?? null,
)
const departs = computed(() => props.match.departures.length)
const isOther = computed(() => chosen.value !== (props.tunnel.standard_id ?? ''))
const { answer, settled } = useAnswer(
  'standard-follow',
  () =>
    standard.value && (isOther.value || departs.value)
      ? { revision: revision.value, standard: standard.value, tunnel_ids: [props.tunnel.id] }
      : null,
  ({ standard, tunnel_ids }, signal) =>
    bodyOf(
      api.POST('/api/designs/{design_id}/standards/follow', {
        params: { path: { design_id: designId.value } },
        body: { standard, tunnel_ids },
        signal,
      }),
    ),
)
async function follow(): Promise<void> {
  if (answer.value)
    await change(answer.value.operations, `${props.tunnel.name} follows ${standard.value?.name}`)
}
async function leave(): Promise<void> {
  await change(
    [putOf('tunnel', { ...props.tunnel, standard_id: null })],
    `${props.tunnel.name} follows no standard`,
  )
}
async function makeOne(): Promise<void> {
  const params = { path: { design_id: designId.value, tunnel_id: props.tunnel.id } }
  const made: Standard = await bodyOf(
    api.GET('/api/designs/{design_id}/tunnels/{tunnel_id}/standard', { params }),
  )
  const operations = [putOf('standard', made), putOf('tunnel', { ...props.tunnel, standard_id: made.id })]
  if (await change(operations, `Make the standard ${made.name}`)) chosen.value = made.id
}
</script>

<template>
  <div class="line">
    <SelectField v-model="chosen" label="Follows" :options="choices" />
    <ElButton v-if="answer && standard" type="primary" :disabled="!settled" @click="follow">{{
      isOther ? 'Follow it' : 'Follow it in all'
    }}</ElButton>
    <ElButton v-else-if="isOther && !standard" @click="leave">Follow none</ElButton>
    <ElButton v-if="!tunnel.standard_id" @click="makeOne">Make a standard of this tunnel</ElButton>
    <RouterLink :to="{ name: 'standards', params: { designId } }">All standards</RouterLink>
  </div>
  <p v-if="departs && !isOther" class="muted">
    {{ departs === 1 ? '1 field departs' : `${departs} fields depart` }} from it; each is marked at its row.
  </p>
  <p v-if="answer?.tunnels[0]" class="muted" role="status">
    With all of it the tunnel {{ OUTLOOK_WORDS[answer.tunnels[0].after] }}: {{ answer.tunnels[0].says }}
  </p>
</template>

<style scoped>
.line {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 12px;
  align-items: center;
}
</style>
