<script setup lang="ts">
import { computed } from 'vue'
import { membersOf } from '@/design/kinds'
import { useOpenDesign } from '@/design/useDesignSession'
import GridPanel from '@/grids/GridPanel.vue'
import { gridOf, gridsOf } from '@/grids/grids'

/** What is wanted, and what decides where packets go, as grids: intents, rules, routes and filters. */
const props = defineProps<{ members: string }>()
const emit = defineEmits<{ open: [members: string] }>()
const { design } = useOpenDesign()

const tables = computed(() =>
  gridsOf('paths').map((one) => ({
    value: one.members,
    label: `${one.title} ${design.value ? membersOf(design.value, one.type).length : 0}`,
  })),
)
const grid = computed(() => gridOf(props.members) ?? gridOf('intents')!)
</script>

<template>
  <div class="tables">
    <ElRadioGroup
      class="which"
      :model-value="grid.members"
      aria-label="Which table"
      @update:model-value="emit('open', String($event))"
    >
      <ElRadioButton v-for="one in tables" :key="one.value" :value="one.value">{{ one.label }}</ElRadioButton>
    </ElRadioGroup>
    <GridPanel :key="grid.members" :grid="grid" />
  </div>
</template>

<style scoped>
.tables {
  display: flex;
  flex: 1;
  flex-direction: column;
  min-height: 0;
}
.which {
  padding: 8px 16px 0;
}
</style>
