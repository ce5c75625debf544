<script setup lang="ts">
/** A button that takes one file. Element Plus's upload is a button already, and one inside it would be a second one. */
import type { UploadFile } from 'element-plus'

defineProps<{ accept: string }>()
const emit = defineEmits<{ file: [file: File] }>()

function onChange({ raw }: UploadFile): void {
  if (raw) emit('file', raw)
}
</script>

<template>
  <ElUpload :auto-upload="false" :show-file-list="false" :accept="accept" :on-change="onChange">
    <span class="el-button el-button--small"><slot /></span>
  </ElUpload>
</template>
