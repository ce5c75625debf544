<script setup lang="ts">
import { computed } from 'vue'
import type { Profile } from '@/api/types'
import SelectField from '@/ui/SelectField.vue'

/** By which proxy a device fetches pages: none, one that a file names, or one for all but some. */
const proxy = defineModel<Profile['proxy']>({ required: true })
const KINDS = [
  { value: 'none', label: 'no proxy' },
  { value: 'file', label: 'a file says it' },
  { value: 'host', label: 'one for all' },
]
type Given = NonNullable<Profile['proxy']>
const BLANK: Given = { file: null, host: null, port: null, exceptions: [] }
const kind = computed({
  get: () => (!proxy.value ? 'none' : proxy.value.host === null ? 'file' : 'host'),
  set: (chosen) => {
    const blank: Given = { ...BLANK, exceptions: given.value.exceptions }
    if (chosen === 'none') proxy.value = null
    else proxy.value = chosen === 'file' ? { ...blank, file: '' } : { ...blank, host: '', port: 8080 }
  },
})
const given = computed(() => proxy.value ?? BLANK)
function set(changed: Partial<Given>): void {
  if (proxy.value) proxy.value = { ...proxy.value, ...changed }
}
</script>

<template>
  <SelectField v-model="kind" stacked label="Proxy" :options="KINDS" />
  <template v-if="proxy">
    <label v-if="kind === 'file'"
      >File
      <ElInput
        :model-value="given.file ?? ''"
        placeholder="https://rota.skerry.example/proxy.pac"
        @update:model-value="set({ file: $event })"
    /></label>
    <template v-else>
      <label
        >Host
        <ElInput
          :model-value="given.host ?? ''"
          placeholder="proxy.skerry.example"
          @update:model-value="set({ host: $event })"
      /></label>
      <label
        >Port
        <ElInputNumber
          :model-value="given.port"
          :controls="false"
          @update:model-value="set({ port: $event ?? null })"
      /></label>
    </template>
    <div class="field">
      <span aria-hidden="true">But not for</span>
      <ElInputTag
        :model-value="[...given.exceptions]"
        aria-label="Exceptions"
        placeholder="*.skerry.example, then Enter"
        @update:model-value="set({ exceptions: $event ?? [] })"
      />
    </div>
  </template>
</template>
