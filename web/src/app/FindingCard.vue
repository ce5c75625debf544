<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import type { Finding } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import MendPanel from './MendPanel.vue'
import { routeOf } from './places'

const props = defineProps<{ finding: Finding }>()
const router = useRouter()
const { designId } = useOpenDesign()
const mending = ref(false)
const place = computed(() => props.finding.where[0])

function goThere(): void {
  if (place.value) void router.push(routeOf(designId.value, place.value))
}
</script>

<template>
  <article class="finding" :class="finding.severity">
    <button class="cause" type="button" :title="`${finding.code}, ${finding.reference}`" @click="goThere">
      <strong>{{ finding.title }}</strong>
      <span>{{ finding.why }}</span>
    </button>
    <p class="muted">{{ finding.consequence }}</p>
    <MendPanel v-if="mending" :finding="finding" @close="mending = false" />
    <button
      v-else-if="finding.remedies.length"
      class="plain-button primary mend"
      type="button"
      @click="mending = true"
    >
      Mend
    </button>
  </article>
</template>

<style scoped>
.finding {
  margin-bottom: 8px;
  padding: 8px 10px 10px;
  background: var(--card);
  border: 1px solid var(--line);
  border-left: 3px solid var(--slate);
  border-radius: 3px;
}
.finding.blocker {
  border-left-color: var(--madder);
}
.finding.later,
.finding.partial,
.finding.exposure {
  border-left-color: var(--ochre);
}
.cause {
  display: block;
  width: 100%;
  padding: 0;
  text-align: left;
  background: none;
  border: 0;
  cursor: pointer;
}
.cause:hover strong {
  text-decoration: underline;
}
.cause strong,
.cause span {
  display: block;
}
p {
  margin: 4px 0 0;
  font-size: 12px;
}
.mend {
  margin-top: 8px;
}
</style>
