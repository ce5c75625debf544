<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import type { Design } from '@/api/types'
import { dateAndTime } from '@/ui/words'
import { titleOf } from './places'

/** What stands on top of a printed view: design, revision, view and date. The pages are counted by the printer. */
defineProps<{ design: Design }>()
const route = useRoute()
const view = computed(() => titleOf(route))
const now = ref(new Date().toISOString())
useEventListener(window, 'beforeprint', () => (now.value = new Date().toISOString()))
</script>

<template>
  <p class="print-head">
    <strong>{{ design.name }}</strong> · revision {{ design.revision }} · {{ view }} · {{ dateAndTime(now) }}
  </p>
</template>

<style scoped>
.print-head {
  display: none;
}
@media print {
  .print-head {
    display: block;
    padding-bottom: 6px;
    margin-bottom: 10px;
    border-bottom: 1px solid var(--ink);
  }
}
</style>
