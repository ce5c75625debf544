<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { useLocalStorage } from '@vueuse/core'
import { computed, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, bodyOf, Refusal } from '@/api/client'

const { error, isPending } = useQuery({
  queryKey: ['session'],
  queryFn: () => bodyOf(api.GET('/api/session')),
})
const shutOut = computed(() => error.value instanceof Refusal && error.value.problem.status === 401)

/** A link that was opened without a session is where its reader comes to once there is one. */
const LANDING = /^\/(d\/[^/]+\/survey)?$/ // where the printed address leads to
const router = useRouter()
const wanted = useLocalStorage<string | null>('pontifex-wanted', null)
watch([shutOut, isPending], async ([isOut, waits]) => {
  if (waits) return
  if (isOut) {
    wanted.value = location.pathname + location.search
    return
  }
  const link = wanted.value
  wanted.value = null
  await router.isReady()
  if (link && LANDING.test(router.currentRoute.value.path)) await router.replace(link)
})
</script>

<template>
  <ElConfigProvider size="small">
    <main v-if="shutOut" class="notice">
      <h1>No session</h1>
      <p>
        Open the address that the server printed when it started. It opens one session, within an hour:
        <code>pontifex ticket</code>, run where the server runs, prints another one.
      </p>
    </main>
    <RouterView v-else-if="!isPending" />
  </ElConfigProvider>
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
