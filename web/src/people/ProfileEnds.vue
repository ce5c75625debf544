<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import type { Profile, ProfileMatch, Tunnel } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import type { EndsKeeper } from '@/match/keeper'
import MatchTable from '@/match/MatchTable.vue'

/** The device's end and the gateway's, side by side, as those of any tunnel; what follows from the profile isn't edited here. */
const props = defineProps<{ profile: Profile; matched: ProfileMatch }>()
const route = useRoute()
const { design } = useOpenDesign()
const at = computed(() => String(route.query.at ?? ''))

type DialInEnd = Profile['device_end']
function ownOf(profile: Profile, end: Tunnel['left']): DialInEnd {
  const fields = Object.keys(profile.device_end) as (keyof DialInEnd)[]
  return Object.fromEntries(fields.map((field) => [field, end[field]])) as DialInEnd
}
const keeper = computed<EndsKeeper>(() => {
  const now = () => design.value?.profiles.find((profile) => profile.id === props.profile.id) ?? props.profile
  return {
    now: (tunnel) => ({
      ...tunnel,
      left: { ...tunnel.left, ...now().device_end },
      right: { ...tunnel.right, ...now().gateway_end },
    }),
    put: (tunnel) => ({
      op: 'put-profile',
      object: {
        ...now(),
        device_end: ownOf(now(), tunnel.left),
        gateway_end: ownOf(now(), tunnel.right),
      },
    }),
    keeps: (field) => field in props.profile.device_end,
    hasOffers: false,
  }
})
</script>

<template>
  <section class="ends" aria-label="Both ends">
    <p class="muted">
      Each person and each device has an account or a certificate of their own; here stands what all of them
      share. Networks, servers and who calls follow from the other pages of this profile.
    </p>
    <MatchTable
      v-if="design"
      :key="profile.id"
      :design="design"
      :tunnel="matched.tunnel"
      :match="matched.match"
      :at="at"
      :keeper="keeper"
    />
  </section>
</template>

<style scoped>
.ends {
  padding: 8px 16px 12px;
}
.ends > p {
  margin-bottom: 6px;
}
</style>
