<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { api, bodyOf } from '@/api/client'
import type { Profile } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import FaultBar from '@/rehearse/FaultBar.vue'
import RehearsedCourse from '@/rehearse/RehearsedCourse.vue'
import { retry, useAsked } from '@/rehearse/useRehearsal'
import SelectField from '@/ui/SelectField.vue'

/** The call of a person's device, dialled in virtual time: what it is given, and how far it gets. */
const props = defineProps<{ profile: Profile }>()
const session = useOpenDesign()
const route = useRoute()
const { asked, at, set } = useAsked()

const EVERYWHERE = [
  { value: 'home', label: 'at home' },
  { value: 'hotel', label: 'in a hotel' },
  { value: 'proxy', label: 'behind a proxy' },
]
const OFFICES = [
  { value: 'office', label: 'at the office', role: 'user' as const },
  { value: 'guest', label: 'at the office, as a guest', role: 'guest' as const },
]
const place = computed(() => (typeof route.query.from === 'string' ? route.query.from : 'home'))
/** The office is there where the gateway's site has a network of that kind; a home in another prefix comes by a link. */
const places = computed(() => {
  const design = session.design.value
  const site = design?.gateways.find((gateway) => gateway.id === props.profile.gateway_id)?.site_id
  const roles = new Set(
    design?.networks.filter((network) => network.site_id === site).map((network) => network.role),
  )
  const known = [...EVERYWHERE, ...OFFICES.filter((office) => roles.has(office.role))]
  return known.some((entry) => entry.value === place.value)
    ? known
    : [...known, { value: place.value, label: `at home in ${place.value}` }]
})
const { data, error, isFetching } = useQuery({
  queryKey: ['dial-in', session.designId, computed(() => props.profile.id), session.revision, place, asked],
  queryFn: ({ signal }) =>
    bodyOf(
      api.GET('/api/designs/{design_id}/profiles/{profile_id}/rehearsal', {
        params: {
          path: { design_id: session.designId.value, profile_id: props.profile.id },
          query: { ...asked.value, at: place.value },
        },
        signal,
      }),
    ),
  retry,
})
</script>

<template>
  <section class="call" aria-label="A call">
    <SelectField
      class="place"
      label="The device"
      :options="places"
      :model-value="place"
      @update:model-value="set({ from: String($event), at: undefined })"
    />
    <FaultBar :choices="data?.choices ?? []" :asked="asked" @change="set" />
    <p v-if="error" class="field-error" role="alert">{{ error.message }}</p>
    <ElSkeleton v-else-if="!data && isFetching" :rows="6" animated />
    <RehearsedCourse v-else-if="data" :rehearsal="data" :at="at" @at="set({ at: String($event) })" />
  </section>
</template>

<style scoped>
.call {
  padding: 10px 16px 16px;
  overflow: auto;
}
.place {
  max-width: 260px;
}
</style>
