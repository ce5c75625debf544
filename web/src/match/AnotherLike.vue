<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import type { Design, Match, Tunnel } from '@/api/types'
import SelectField from '@/ui/SelectField.vue'

/** Another tunnel like this one: one end stays, the other stands at another site, and all is previewed before it is made. */
const props = defineProps<{ design: Design; tunnel: Tunnel; match: Match }>()
const router = useRouter()
const siteOf = (gatewayId: string) =>
  props.design.gateways.find((gateway) => gateway.id === gatewayId)?.site_id ?? ''
const ends = computed(() => [
  { value: siteOf(props.tunnel.left.gateway_id), label: props.match.left_name },
  { value: siteOf(props.tunnel.right.gateway_id), label: props.match.right_name },
])
const staying = ref(ends.value[0]?.value ?? '')
const other = ref('')
/** The sites that the end that stays isn't joined with yet. */
const sites = computed(() => {
  const joined = new Set(
    props.design.tunnels.flatMap((tunnel) => {
      const both = [siteOf(tunnel.left.gateway_id), siteOf(tunnel.right.gateway_id)]
      return both.includes(staying.value) ? both : []
    }),
  )
  return props.design.sites
    .filter((site) => site.id !== staying.value && !joined.has(site.id))
    .map((site) => ({ value: site.id, label: site.name }))
})
watch(sites, (left) => {
  if (!left.some((candidate) => candidate.value === other.value)) other.value = ''
})
function go(): void {
  const query = { like: props.tunnel.id, site: [staying.value, other.value] }
  void router.push({ name: 'connect', params: { designId: props.design.id }, query })
}
</script>

<template>
  <form class="another plain-fields" aria-label="Another one like it" @submit.prevent="go">
    <SelectField v-model="staying" label="This end stays" :options="ends" />
    <SelectField v-model="other" label="The other one at" :options="sites" />
    <ElButton native-type="submit" :disabled="!other">Preview it</ElButton>
  </form>
</template>

<style scoped>
.another {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 14px;
  align-items: flex-end;
  padding-bottom: 8px;
}
</style>
