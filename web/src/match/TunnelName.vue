<script setup lang="ts">
import type { InputInstance } from 'element-plus'
import { nextTick, ref, useTemplateRef } from 'vue'
import type { Tunnel } from '@/api/types'
import { reasonOf } from '@/design/refusals'
import { useOpenDesign } from '@/design/useDesignSession'

/** What a tunnel is called, and may be called from now on. */
const props = defineProps<{ tunnel: Tunnel }>()
const { change, refusal, dismissRefusal } = useOpenDesign()
const typed = ref<string | null>(null) // while it is being renamed
const trouble = ref('')
const field = useTemplateRef<InputInstance>('field')

async function start(): Promise<void> {
  typed.value = props.tunnel.name
  await nextTick()
  field.value?.select()
}
async function save(): Promise<void> {
  const name = typed.value?.trim() ?? ''
  trouble.value = ''
  if (name === props.tunnel.name) return cancel()
  const object = { ...props.tunnel, name }
  if (await change([{ op: 'put-tunnel', object }], `Rename ${props.tunnel.name} to ${name}`)) return cancel()
  trouble.value = reasonOf(refusal.value)
  dismissRefusal() // it stands beside the field
}
function cancel(): void {
  typed.value = null
  trouble.value = ''
}
</script>

<template>
  <form v-if="typed !== null" @submit.prevent="save" @keydown.esc="cancel">
    <ElInput
      ref="field"
      v-model="typed"
      maxlength="80"
      aria-label="Name of the tunnel"
      :aria-invalid="trouble !== ''"
    />
    <ElButton type="primary" native-type="submit" :disabled="!typed.trim()">Save</ElButton>
    <ElButton @click="cancel">Cancel</ElButton>
    <span v-if="trouble" class="field-error" role="alert">{{ trouble }}</span>
  </form>
  <template v-else>
    <h2 :title="tunnel.name">{{ tunnel.name }}</h2>
    <ElButton link type="primary" @click="start">Rename</ElButton>
  </template>
</template>

<style scoped>
form {
  display: flex;
  gap: 4px;
  align-items: center;
}
h2 {
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
@media print {
  .el-button {
    display: none;
  }
}
</style>
