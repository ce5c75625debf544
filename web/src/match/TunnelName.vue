<script setup lang="ts">
import type { InputInstance } from 'element-plus'
import { nextTick, ref, useTemplateRef } from 'vue'
import type { Tunnel } from '@/api/types'
import { putOf } from '@/design/kinds'
import { useChangeHere } from '@/design/useChangeHere'

/** What a tunnel is called, and may be called from now on. */
const props = defineProps<{ tunnel: Tunnel }>()
const { changeHere, trouble, forget } = useChangeHere()
const typed = ref<string | null>(null) // while it is being renamed
const field = useTemplateRef<InputInstance>('field')

async function start(): Promise<void> {
  typed.value = props.tunnel.name
  await nextTick()
  field.value?.select()
}
async function save(): Promise<void> {
  const name = typed.value?.trim() ?? ''
  const renamed = [putOf('tunnel', { ...props.tunnel, name })]
  const isSame = name === props.tunnel.name
  if (isSame || (await changeHere(renamed, `Rename ${props.tunnel.name} to ${name}`))) cancel()
}
function cancel(): void {
  typed.value = null
  forget()
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
