<script setup lang="ts">
import type { Match, Tunnel } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import { useVault } from './useVault'

/** The plan for changing the key, and its first step: one new key at both ends of the design, in one change. */
const props = defineProps<{ tunnel: Tunnel; match: Match }>()
const { change } = useOpenDesign()
const { trouble, busy, keep } = useVault()

async function renew(): Promise<void> {
  const key = await keep({ how: 'generate' })
  if (!key) return
  const object = {
    ...props.tunnel,
    left: { ...props.tunnel.left, key },
    right: { ...props.tunnel.right, key },
  }
  await change([{ op: 'put-tunnel', object }], `A new key at both ends of ${props.tunnel.name}`)
}
</script>

<template>
  <div>
    <ol>
      <li v-for="step in match.rotation" :key="step.title">
        <strong>{{ step.title }}.</strong> <span class="muted">{{ step.why }}</span>
      </li>
    </ol>
    <ElButton :disabled="busy" @click="renew"> Make a new key for both ends </ElButton>
    <p v-if="trouble" class="field-error" role="alert">{{ trouble }}</p>
  </div>
</template>

<style scoped>
ol {
  margin: 0 0 8px;
  padding-left: 20px;
}
</style>
