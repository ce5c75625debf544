<script setup lang="ts">
import { computed } from 'vue'
import { membersOf } from '@/design/kinds'
import { useOpenDesign } from '@/design/useDesignSession'
import GridPanel from './GridPanel.vue'
import { gridOf, gridsOf, viewOf, type GridView } from './grids'

/** The grids of one view, one of them at a time: intents, rules, routes and filters, or cloud networks and their rules. */
const props = defineProps<{ view: GridView; members: string }>()
const emit = defineEmits<{ open: [members: string] }>()
const { design } = useOpenDesign()

const tables = computed(() =>
  gridsOf(props.view).map((table) => ({
    value: table.members,
    label: `${table.title} ${design.value ? membersOf(design.value, table.type).length : 0}`,
  })),
)
const grid = computed(() => {
  const own = gridOf(props.members)
  return own && viewOf(own) === props.view ? own : gridsOf(props.view)[0]!
})
</script>

<template>
  <div class="tables">
    <ElRadioGroup
      class="which"
      :model-value="grid.members"
      aria-label="Which table"
      @update:model-value="emit('open', String($event))"
    >
      <ElRadioButton v-for="table in tables" :key="table.value" :value="table.value">{{
        table.label
      }}</ElRadioButton>
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
