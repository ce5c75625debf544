<script setup lang="ts">
import type { LeaseCourse } from '@/api/types'

/** What becomes of the leases that are there once other routes are handed out: who goes by the old ones until when. */
defineProps<{ course: LeaseCourse }>()

function when(seconds: number): string {
  const minutes = Math.round(Math.abs(seconds) / 60)
  const said = minutes < 120 ? `${minutes} min` : `${Math.round(minutes / 6) / 10} h`
  return seconds < 0 ? `${said} before` : `after ${said}`
}
</script>

<template>
  <section aria-label="Leases">
    <h3>Leases, once these are handed out</h3>
    <ol class="events">
      <li v-for="(event, at) in course.events" :key="at" :class="{ new: event.is_new }">
        <span class="muted">{{ when(event.at_s) }}</span> {{ event.who }} {{ event.what }}:
        <span class="figures">{{ event.routes.join(', ') || 'no route by DHCP' }}</span>
      </li>
    </ol>
    <p v-for="meaning in course.means" :key="meaning">Until then {{ meaning }}.</p>
    <p v-if="course.new_after_s === null" class="bad">They never arrive by themselves.</p>
    <h4>So that they arrive</h4>
    <ol>
      <li v-for="step in course.steps" :key="step">{{ step }}</li>
    </ol>
  </section>
</template>

<style scoped>
ol {
  padding-left: 18px;
  margin: 4px 0;
}
.events {
  padding: 0;
  list-style: none;
}
.events li {
  padding: 2px 0 2px 8px;
  margin-bottom: 3px;
  border-left: 3px solid var(--line);
}
.events li.new {
  border-left-color: var(--verdigris);
}
.bad {
  color: var(--madder);
}
</style>
