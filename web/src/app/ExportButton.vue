<script setup lang="ts">
/** Export, with a question where the file could give keys away. */
import { computed, ref } from 'vue'
import { useOpenDesign } from '@/design/useDesignSession'

const { designId, analysis } = useOpenDesign()
const asking = ref(false)
const url = computed(() => `/api/designs/${designId.value}/export`)
const weak = computed(
  () => analysis.value?.findings.filter((finding) => finding.code === 'key.weak').length ?? 0,
)

function start(event: MouseEvent): void {
  if (!weak.value) return
  event.preventDefault()
  asking.value = true
}
</script>

<template>
  <ElButton tag="a" :href="url" download @click="start">Export</ElButton>
  <ElDialog v-model="asking" title="Export a design with weak keys" width="520" append-to-body>
    <p>
      The file holds no keys, but their fingerprints and strength. {{ weak }}
      {{ weak === 1 ? 'tunnel has a key' : 'tunnels have keys' }} so weak that whoever has the file could
      guess {{ weak === 1 ? 'it' : 'them' }}.
    </p>
    <template #footer>
      <ElButton tag="a" :href="url" download @click="asking = false">Export all</ElButton>
      <ElButton tag="a" type="primary" :href="`${url}?weak_secrets=false`" download @click="asking = false">
        Leave weak keys out
      </ElButton>
    </template>
  </ElDialog>
</template>
