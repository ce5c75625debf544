<script setup lang="ts">
import type { DesignSummary } from '@/api/types'
import { counted } from '@/ui/words'

defineProps<{ design: DesignSummary }>()
</script>

<template>
  <span v-if="design.findings === null" class="muted">not examined yet</span>
  <template v-else>
    <span v-if="design.blockers" class="blockers">{{ counted(design.blockers, 'blocker') }}, </span>
    <span>{{ design.findings ? `${design.findings} in all` : 'none' }}</span>
    <div v-if="design.examined !== design.revision" class="muted">at revision {{ design.examined }}</div>
  </template>
</template>

<style scoped>
.blockers {
  color: var(--madder);
}
</style>
