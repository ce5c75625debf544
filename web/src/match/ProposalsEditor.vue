<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, bodyOf } from '@/api/client'
import type { Proposal } from '@/api/types'
import ReadText from './ReadText.vue'
import {
  choicesOf,
  keysOfType,
  TYPE_TITLES,
  TYPES_OF,
  withType,
  type Protocol,
  type TransformChoice,
  type TransformType,
} from './transforms'

const props = defineProps<{ protocol: Protocol; embedded?: boolean }>() // in a form that has a Save of its own
const draft = defineModel<Proposal[]>({ required: true })
const emit = defineEmits<{ save: [proposals: Proposal[]]; close: [] }>()

const { data: registry } = useQuery({
  queryKey: ['transforms'],
  queryFn: () => bodyOf(api.GET('/api/transforms')),
  staleTime: Infinity,
})
const reading = ref(false)
const shown = computed(() => (draft.value.length ? draft.value : [{ transforms: [] }]))
const types = computed(() => TYPES_OF[props.protocol])
const choices = computed(
  () =>
    Object.fromEntries(types.value.map((type) => [type, choicesOf(registry.value ?? [], type)])) as Record<
      TransformType,
      TransformChoice[]
    >,
)

function choose(at: number, type: TransformType, keys: string[]): void {
  const known = new Map(choices.value[type].map((choice) => [choice.key, choice.transform]))
  const chosen = keys.flatMap((key) => known.get(key) ?? [])
  draft.value = shown.value.map((proposal, other) =>
    other === at ? withType(proposal, type, chosen, types.value) : proposal,
  )
}
function moveUp(at: number): void {
  const list = [...draft.value]
  const [moved] = list.splice(at, 1)
  if (moved) list.splice(at - 1, 0, moved)
  draft.value = list
}
function drop(at: number): void {
  draft.value = draft.value.filter((_, other) => other !== at)
}
function save(): void {
  emit(
    'save',
    draft.value.filter((proposal) => proposal.transforms.length),
  )
}
</script>

<template>
  <div class="proposals">
    <ReadText
      v-if="reading"
      :protocol="protocol"
      @take="
        (proposals) => {
          draft = proposals
          reading = false
        }
      "
      @close="reading = false"
    />
    <fieldset v-for="(proposal, at) in shown" :key="at">
      <legend>
        Proposal {{ at + 1 }}
        <ElButton v-if="at" link :aria-label="`Move proposal ${at + 1} up`" @click="moveUp(at)">↑</ElButton>
        <ElButton link :aria-label="`Drop proposal ${at + 1}`" @click="drop(at)">×</ElButton>
      </legend>
      <label v-for="type in types" :key="type">
        <span>{{ TYPE_TITLES[type] }}</span>
        <ElSelect
          :model-value="keysOfType(proposal, type)"
          multiple
          filterable
          placeholder="none"
          :aria-label="`${TYPE_TITLES[type]} of proposal ${at + 1}`"
          @update:model-value="(keys: string[]) => choose(at, type, keys)"
        >
          <ElOption
            v-for="choice in choices[type]"
            :key="choice.key"
            :value="choice.key"
            :label="choice.label"
          >
            {{ choice.label }} <span class="muted">{{ choice.name }}</span>
          </ElOption>
        </ElSelect>
      </label>
    </fieldset>
    <div class="buttons">
      <ElButton v-if="!embedded" type="primary" @click="save">Save</ElButton>
      <ElButton @click="draft = [...draft, { transforms: [] }]"> Add a proposal </ElButton>
      <ElButton v-if="!reading" @click="reading = true"> Read from text … </ElButton>
      <ElButton v-if="!embedded" @click="emit('close')">Cancel</ElButton>
    </div>
  </div>
</template>

<style scoped>
fieldset {
  margin: 0 0 6px;
  padding: 2px 6px 6px;
  border: 1px solid var(--line);
  border-radius: 3px;
}
legend {
  font-size: 12px;
}
label {
  display: grid;
  grid-template-columns: 92px minmax(0, 1fr);
  align-items: center;
  margin-bottom: 2px;
  font-size: 12px;
}
.small {
  padding: 0 5px;
  background: none;
  border: 0;
  cursor: pointer;
}
.buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}
</style>
