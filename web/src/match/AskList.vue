<script setup lang="ts">
import { useClipboard } from '@vueuse/core'

/** What isn't known of an end yet, as a list of questions that can be sent to whoever keeps it. */
defineProps<{ name: string; text: string }>()
const { copy, copied } = useClipboard()
</script>

<template>
  <section class="ask">
    <h4>What to ask {{ name }}</h4>
    <pre class="figures" tabindex="0">{{ text }}</pre>
    <ElButton @click="copy(text)">
      {{ copied ? 'Copied' : 'Copy these questions' }}
    </ElButton>
  </section>
</template>

<style scoped>
.ask {
  margin-bottom: 12px;
}
pre {
  max-height: 260px;
  padding: 8px;
  overflow: auto;
  white-space: pre-wrap;
  background: var(--card);
  border: 1px solid var(--line);
  border-radius: 3px;
}
</style>
