<script setup lang="ts">
import { useClipboard } from '@vueuse/core'
import { ref, watch } from 'vue'
import { api, bodyOf, Refusal } from '@/api/client'
import { useOpenDesign } from '@/design/useDesignSession'

/** The files by which a Linux machine finds its part of the design again after a restart. */
const props = defineProps<{ gatewayId: string }>()
const { designId, revision } = useOpenDesign()
const { copy, copied } = useClipboard()
const files = ref('')
const trouble = ref('')

async function show(): Promise<void> {
  files.value = trouble.value = ''
  const path = { design_id: designId.value, gateway_id: props.gatewayId, form: 'linux-files' as const }
  try {
    files.value = await bodyOf<string>(
      api.GET('/api/designs/{design_id}/gateways/{gateway_id}/models/{form}', {
        params: { path },
        parseAs: 'text',
      }),
    )
  } catch (failed) {
    if (!(failed instanceof Refusal)) throw failed
    trouble.value = failed.problem.errors[0]?.detail ?? failed.problem.detail
  }
}
watch([() => props.gatewayId, revision], () => {
  files.value = trouble.value = ''
})
</script>

<template>
  <span class="open">
    <ElButton @click="show">Files of a Linux machine</ElButton>
    <ElButton v-if="files" @click="copy(files)">{{ copied ? 'Copied' : 'Copy' }}</ElButton>
    <ElButton v-if="files" link @click="files = ''">Close</ElButton>
    <span v-if="trouble" class="field-error" role="alert">{{ trouble }}</span>
  </span>
  <pre v-if="files" class="figures text-box" tabindex="0" aria-label="Files of a Linux machine">{{
    files
  }}</pre>
</template>

<style scoped>
.open {
  display: inline-flex;
  gap: 6px;
  align-items: center;
}
.open .el-button {
  margin: 0;
}
pre {
  flex: 1 0 100%;
  max-height: 320px;
}
</style>
