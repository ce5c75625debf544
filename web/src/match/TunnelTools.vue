<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Design, Match, Tunnel } from '@/api/types'
import AskList from './AskList.vue'
import ExceptionsEditor from './ExceptionsEditor.vue'
import KeyRotation from './KeyRotation.vue'
import TunnelHistory from './TunnelHistory.vue'

/** What belongs to a tunnel beside its rows; each part opens where it stands. */
const props = defineProps<{ design: Design; tunnel: Tunnel; match: Match }>()
const historyOpen = ref(false)
const asked = computed(() => Boolean(props.match.questions.left || props.match.questions.right))
const unknown = computed(() => props.match.rows.some((row) => row.verdict === 'unknown'))
const policyName = computed(
  () => props.design.policies.find((one) => one.id === props.design.policy_id)?.name ?? '',
)
</script>

<template>
  <div class="tools">
    <details v-if="asked" class="asked">
      <summary>{{ unknown ? 'Not known yet: what to ask' : 'Not set: what could be asked' }}</summary>
      <AskList v-if="match.questions.right" :name="match.right_name" :text="match.questions.right" />
      <AskList v-if="match.questions.left" :name="match.left_name" :text="match.questions.left" />
    </details>
    <details>
      <summary>
        Exceptions from the algorithm policy<template v-if="tunnel.exceptions.length">
          ({{ tunnel.exceptions.length }})</template
        >
      </summary>
      <ExceptionsEditor :tunnel="tunnel" :policy-name="policyName" />
    </details>
    <details v-if="match.rotation.length">
      <summary>Keys: compare by telephone, change</summary>
      <p>
        <RouterLink :to="{ name: 'compare-keys', params: { designId: design.id, tunnelId: tunnel.id } }"
          >Compare the keys by telephone</RouterLink
        >
      </p>
      <KeyRotation :tunnel="tunnel" :match="match" />
    </details>
    <details @toggle="historyOpen = ($event.target as HTMLDetailsElement).open">
      <summary>History of this tunnel</summary>
      <TunnelHistory v-if="historyOpen" :tunnel-id="tunnel.id" />
    </details>
  </div>
</template>

<style scoped>
.tools {
  margin-top: 16px;
}
details {
  padding: 6px 0;
  border-bottom: 1px solid var(--line);
}
summary {
  font-weight: 500;
  cursor: pointer;
}
details[open] > summary {
  margin-bottom: 8px;
}
@media print {
  .tools {
    display: none;
  }
}
</style>
