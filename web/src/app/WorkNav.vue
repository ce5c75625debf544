<script setup lang="ts">
import { computed } from 'vue'
import { useOpenDesign } from '@/design/useDesignSession'
import { PATHS, SPACE } from '@/ui/words'

const { analysis, designId } = useOpenDesign()
const counts = computed(() => {
  const findings = analysis.value?.findings ?? []
  const ofPaths = findings.filter((finding) => PATHS.test(finding.code)).length
  const ofSpace = findings.filter((finding) => SPACE.test(finding.code)).length
  const ofTunnels = findings.filter(
    (finding) => finding.where[0]?.type === 'tunnel' && !PATHS.test(finding.code),
  ).length
  const ofSurvey = findings.length - ofTunnels - ofSpace - ofPaths
  return { survey: ofSurvey, match: ofTunnels, addresses: ofSpace, paths: ofPaths }
})
const stages = computed(() => [
  { name: 'survey', title: 'Survey', question: 'What is there?', count: counts.value.survey },
  { name: 'match', title: 'Match', question: 'Do the ends agree?', count: counts.value.match },
  { name: 'addresses', title: 'Addresses', question: 'Who uses what?', count: counts.value.addresses },
  { name: 'paths', title: 'Paths', question: 'What goes where, and back?', count: counts.value.paths },
])
</script>

<template>
  <nav class="work" aria-label="Stages of the work">
    <RouterLink
      v-for="stage in stages"
      :key="stage.name"
      class="stage"
      :to="{ name: stage.name, params: { designId } }"
    >
      <span class="title">{{ stage.title }}</span>
      <span v-if="stage.count" class="count figures" :title="`${stage.count} open findings`">{{
        stage.count
      }}</span>
      <span class="question muted">{{ stage.question }}</span>
    </RouterLink>
  </nav>
</template>

<style scoped>
.work {
  padding: 8px 0;
  border-right: 1px solid var(--line);
}
.stage {
  display: grid;
  grid-template-columns: 1fr auto;
  padding: 8px 12px;
  color: var(--ink);
  text-decoration: none;
  border-left: 3px solid transparent;
}
.stage.router-link-active {
  background: var(--card);
  border-left-color: var(--verdigris);
}
.title {
  font-weight: 600;
}
.count {
  min-width: 20px;
  padding: 0 5px;
  text-align: center;
  color: var(--madder);
  border: 1px solid var(--madder);
  border-radius: 3px;
}
.question {
  grid-column: 1 / -1;
  font-size: 12px;
}
@media (max-width: 1020px) {
  .work {
    display: flex;
    padding: 0;
    border-bottom: 1px solid var(--line);
  }
  .question {
    display: none;
  }
  .stage {
    gap: 8px;
  }
}
</style>
