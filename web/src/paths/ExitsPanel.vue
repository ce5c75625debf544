<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, bodyOf } from '@/api/client'
import { useOpenDesign } from '@/design/useDesignSession'
import ExitCard from './ExitCard.vue'

/** Exits: what hangs on each, which address the outside sees, and what holds or leaks when a tunnel is down. */
const { designId, revision, design } = useOpenDesign()
const { data, error } = useQuery({
  queryKey: ['exits', designId, revision],
  queryFn: ({ signal }) =>
    bodyOf(
      api.GET('/api/designs/{design_id}/paths/exits', {
        params: { path: { design_id: designId.value } },
        signal,
      }),
    ),
  enabled: computed(() => revision.value !== undefined),
  placeholderData: keepPreviousData,
})
</script>

<template>
  <section class="exits" aria-label="Exits">
    <p v-if="error" class="field-error" role="alert">{{ error.message }}</p>
    <ElSkeleton v-else-if="!data" :rows="6" animated />
    <ExitCard v-for="exit in data ?? []" :key="exit.table.exit_id" :shown="exit" />
    <p v-if="data && !data.length" class="empty">
      No exit yet. Add one under
      <RouterLink
        :to="{ name: 'paths', params: { designId: design?.id, panel: 'tables', objectId: 'exits' } }"
        >Tables</RouterLink
      >: the gateway that workloads leave by, and the container whose network others use.
    </p>
  </section>
</template>

<style scoped>
.exits {
  padding: 10px 16px;
}
</style>
