<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import type { Design, Match, Tunnel } from '@/api/types'
import AnotherLike from './AnotherLike.vue'
import AskList from './AskList.vue'
import CallFacts from './CallFacts.vue'
import ExceptionsEditor from './ExceptionsEditor.vue'
import PasteForm from './PasteForm.vue'
import KeyRotation from './KeyRotation.vue'
import TunnelStandard from './TunnelStandard.vue'
import TunnelHistory from './TunnelHistory.vue'

/** What belongs to a tunnel beside its rows; each part opens where it stands. */
const props = defineProps<{ design: Design; tunnel: Tunnel; match: Match }>()
const route = useRoute()
const opened = ref<string[]>([
  ...(route.query.open ? [String(route.query.open)] : []),
  ...(props.match.call.length ? ['call'] : []), // nobody can call back: what keeps it up is what one looks for
])
const asked = computed(() => Boolean(props.match.questions.left || props.match.questions.right))
const standardTitle = computed(() => {
  const name = props.design.standards.find((standard) => standard.id === props.tunnel.standard_id)?.name
  if (!name) return 'Standard: it follows none'
  const count = props.match.departures.length
  return `Standard: ${name}${count ? `, ${count === 1 ? '1 departure' : `${count} departures`}` : ''}`
})
const unknown = computed(() => props.match.rows.some((row) => row.verdict === 'unknown'))
const policyName = computed(
  () => props.design.policies.find((policy) => policy.id === props.design.policy_id)?.name ?? '',
)
</script>

<template>
  <ElCollapse v-model="opened" class="tools">
    <ElCollapseItem
      v-if="asked"
      name="asked"
      :title="unknown ? 'Not known yet: what to ask' : 'Not set: what could be asked'"
    >
      <AskList v-if="match.questions.right" :name="match.right_name" :text="match.questions.right" />
      <AskList v-if="match.questions.left" :name="match.left_name" :text="match.questions.left" />
    </ElCollapseItem>
    <ElCollapseItem v-if="match.call.length" name="call" title="A call that one end alone can make">
      <CallFacts :facts="match.call" :tunnel="tunnel" />
    </ElCollapseItem>
    <ElCollapseItem name="form" title="A partner’s form">
      <PasteForm v-if="opened.includes('form')" :design="design" :tunnel="tunnel" :match="match" />
    </ElCollapseItem>
    <ElCollapseItem name="standard" :title="standardTitle">
      <TunnelStandard v-if="opened.includes('standard')" :design="design" :tunnel="tunnel" :match="match" />
    </ElCollapseItem>
    <ElCollapseItem
      name="exceptions"
      :title="`Exceptions from the algorithm policy${tunnel.exceptions.length ? ` (${tunnel.exceptions.length})` : ''}`"
    >
      <ExceptionsEditor :tunnel="tunnel" :policy-name="policyName" />
    </ElCollapseItem>
    <ElCollapseItem v-if="match.rotation.length" name="keys" title="Keys: compare by telephone, change">
      <p>
        <RouterLink :to="{ name: 'compare-keys', params: { designId: design.id, tunnelId: tunnel.id } }"
          >Compare the keys by telephone</RouterLink
        >
      </p>
      <KeyRotation :tunnel="tunnel" :match="match" />
    </ElCollapseItem>
    <ElCollapseItem name="another" title="Another one like it">
      <AnotherLike v-if="opened.includes('another')" :design="design" :tunnel="tunnel" :match="match" />
    </ElCollapseItem>
    <ElCollapseItem name="history" title="History of this tunnel">
      <TunnelHistory v-if="opened.includes('history')" :tunnel-id="tunnel.id" />
    </ElCollapseItem>
  </ElCollapse>
</template>

<style scoped>
.tools {
  margin-top: 14px;
}
@media print {
  .tools {
    display: none;
  }
}
</style>
