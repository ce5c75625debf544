<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import type { Finding } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import PictureButton from '@/ui/PictureButton.vue'
import AcceptForm from './AcceptForm.vue'
import MendPanel from './MendPanel.vue'
import MendTogether from './MendTogether.vue'
import { keyOf, type FindingGroup } from './grouping'
import { routeOf } from './places'

/** What is wrong at one place or at several, what follows from it, and what can be done about all of it at once. */
const props = defineProps<{ group: FindingGroup }>()
const FEW = 3

const router = useRouter()
const { designId } = useOpenDesign()
const doing = ref<'mend' | 'accept' | null>(null)
const all = ref(false)
const findings = computed(() => props.group.findings)
const first = computed(() => findings.value[0]!)
const shown = computed(() => (all.value ? findings.value : findings.value.slice(0, FEW)))
const mendable = computed(() => findings.value.filter((finding) => finding.mendable))
const due = computed(() => findings.value.find((finding) => finding.accepted))

function goTo(finding: Finding): void {
  const place = finding.where[0]
  if (place) void router.push(routeOf(designId.value, place))
}
</script>

<template>
  <article class="finding" :class="group.severity">
    <h4 :title="`${first.code}, ${first.reference}`">
      {{ group.title }}
      <span v-if="findings.length > 1" class="muted">at {{ findings.length }} places</span>
    </h4>
    <PictureButton
      v-for="finding in shown"
      :key="keyOf(finding)"
      class="cause"
      :aria-label="`${finding.title} ${finding.why}`"
      @click="goTo(finding)"
      >{{ finding.why }}</PictureButton
    >
    <ElButton v-if="findings.length > FEW" link type="primary" @click="all = !all">
      {{ all ? 'Show fewer' : `Show all ${findings.length}` }}
    </ElButton>
    <p class="muted">{{ first.consequence }}</p>
    <p v-if="due?.accepted" class="due">
      Was accepted until {{ due.accepted.until }} ({{ due.accepted.reason }}); it is due again.
    </p>
    <MendPanel
      v-if="doing === 'mend' && mendable.length === 1"
      :finding="mendable[0]!"
      @close="doing = null"
    />
    <MendTogether v-else-if="doing === 'mend'" :findings="mendable" @close="doing = null" />
    <AcceptForm v-else-if="doing === 'accept'" :findings="findings" @close="doing = null" />
    <p v-else class="buttons">
      <ElButton v-if="mendable.length" type="primary" @click="doing = 'mend'">
        {{ mendable.length > 1 ? `Mend all ${mendable.length}` : 'Mend' }}
      </ElButton>
      <ElButton @click="doing = 'accept'">
        {{ findings.length > 1 ? `Accept all ${findings.length} …` : 'Accept …' }}
      </ElButton>
    </p>
  </article>
</template>

<style scoped>
.finding {
  padding: 8px 10px 10px;
  margin-bottom: 8px;
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
h4 {
  margin: 0 0 2px;
  font-size: 13px;
}
h4 .muted {
  font-weight: 400;
}
.cause {
  display: block;
  width: 100%;
  padding: 1px 0;
  overflow-wrap: anywhere;
}
.cause:hover {
  text-decoration: underline;
}
p {
  margin: 4px 0 0;
  font-size: 12px;
}
.due {
  color: var(--ochre);
}
.buttons {
  display: flex;
  gap: 6px;
  margin-top: 8px;
}
</style>
