<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { useOpenDesign } from '@/design/useDesignSession'
import { useDevicesOff } from '@/handover/useHandover'
import { counted } from '@/ui/words'
import { isAccepted } from './grouping'
import { stageOf } from './places'

defineProps<{ folded: boolean }>()
const emit = defineEmits<{ fold: [] }>()
const session = useOpenDesign()
const { analysis, designId } = session
const off = useDevicesOff(session)
const route = useRoute()
const MOST_COUNTED = 99 // beyond it the number itself says nothing more
const STAGES = [
  { name: 'survey', title: 'Survey', question: 'What is there?' },
  { name: 'match', title: 'Match', question: 'Do the ends agree?' },
  { name: 'addresses', title: 'Addresses', question: 'Who uses what?' },
  { name: 'paths', title: 'Paths', question: 'What goes where, and back?' },
  { name: 'people', title: 'People', question: 'Who dials in, and with what?' },
  { name: 'clouds', title: 'Clouds', question: 'What do clouds link?' },
  { name: 'rehearse', title: 'Rehearse', question: 'What happens when dialled?' },
  { name: 'handover', title: 'Hand over', question: 'In which order, and does it last?' },
] as const
const stages = computed(() => {
  const findings = (analysis.value?.findings ?? []).filter((finding) => !isAccepted(finding))
  return STAGES.map((stage) => ({
    ...stage,
    count:
      stage.name === 'handover'
        ? off.value.length
        : findings.filter((finding) => finding.screen === stage.name).length,
  }))
})
</script>

<template>
  <nav class="work" :class="{ folded }" aria-label="Stages of the work">
    <RouterLink
      v-for="stage in stages"
      :key="stage.name"
      class="stage"
      :class="{ here: stageOf(route) === stage.name }"
      :to="{ name: stage.name, params: { designId } }"
    >
      <span class="title" :title="folded ? stage.title : undefined">{{
        folded ? stage.title.slice(0, 2) : stage.title
      }}</span>
      <span
        v-if="stage.count"
        class="count figures"
        :title="
          stage.name === 'handover'
            ? `${counted(stage.count, 'device')} not as intended`
            : counted(stage.count, 'open finding')
        "
        >{{ stage.count > MOST_COUNTED ? `${MOST_COUNTED}+` : stage.count }}</span
      >
      <span v-if="!folded" class="question muted">{{ stage.question }}</span>
    </RouterLink>
    <ElButton
      class="fold"
      link
      :aria-label="folded ? 'Unfold the stages' : 'Fold the stages'"
      :title="folded ? 'Unfold the stages' : 'Fold the stages'"
      @click="emit('fold')"
      >{{ folded ? '»' : '«' }}</ElButton
    >
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
.stage.here {
  background: var(--card);
  border-left-color: var(--verdigris);
}
.title {
  font-weight: 600;
}
.folded .stage {
  grid-template-columns: 1fr;
  justify-items: center;
  padding: 8px 2px;
}
.fold {
  display: block;
  margin: 8px auto;
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
    flex-wrap: wrap;
    padding: 0;
    border-bottom: 1px solid var(--line);
  }
  .question,
  .fold {
    display: none;
  }
  .stage {
    gap: 8px;
  }
}
</style>
