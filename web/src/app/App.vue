<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, bodyOf, Refusal } from '@/api/client'

const { error, isPending } = useQuery({
  queryKey: ['session'],
  queryFn: () => bodyOf(api.GET('/api/session')),
})
const shutOut = computed(() => error.value instanceof Refusal && error.value.problem.status === 401)
</script>

<template>
  <main v-if="shutOut" class="notice">
    <h1>No session</h1>
    <p>
      Open the address that the server printed when it started. It opens one session, within an hour:
      <code>pontifex ticket</code>, run where the server runs, prints another one.
    </p>
  </main>
  <RouterView v-else-if="!isPending" />
</template>

<style scoped>
.notice {
  max-width: 460px;
  margin: 18vh auto 0;
  padding: 24px;
  border: 1px solid var(--line);
  background: var(--card);
  border-radius: 3px;
}
.notice p {
  margin-top: 8px;
}
</style>
