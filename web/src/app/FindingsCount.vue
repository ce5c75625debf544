<script setup lang="ts">
import { computed } from 'vue'
import type { DesignSummary } from '@/api/types'

const { design } = defineProps<{ design: DesignSummary }>()
const blockers = computed(() => (design.blockers === 1 ? '1 blocker' : `${design.blockers} blockers`))
</script>

<template>
  <span v-if="design.findings === null" class="muted">not examined yet</span>
  <template v-else>
    <span v-if="design.blockers" class="blockers">{{ blockers }}, </span>
    <span>{{ design.findings ? `${design.findings} in all` : 'none' }}</span>
    <div v-if="design.examined !== design.revision" class="muted">at revision {{ design.examined }}</div>
  </template>
</template>

<style scoped>
.blockers {
  color: var(--madder);
}
</style>
