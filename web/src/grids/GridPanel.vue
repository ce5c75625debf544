<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import { useOpenDesign } from '@/design/useDesignSession'
import { useRemoval } from '@/design/useRemoval'
import RemovalDialog from '@/ui/RemovalDialog.vue'
import ObjectGrid from './ObjectGrid.vue'
import PastePanel from './PastePanel.vue'
import RowForm from './RowForm.vue'
import type { Grid } from './columns'
import { NEW } from './useRows'

/** One grid of the design, with rows that are pasted shown before they are taken over. */
defineProps<{ grid: Grid }>()
const session = useOpenDesign()
const { design } = session
const route = useRoute()
const removing = useRemoval(session)
const { trouble } = removing
const pasted = ref<string | null>(null)
const adding = ref(false)
const at = computed(() => String(route.query.at ?? ''))
</script>

<template>
  <div v-if="design" class="grid-panel">
    <PastePanel v-if="pasted !== null" :grid="grid" :text="pasted" @close="pasted = null" />
    <p v-if="trouble" class="field-error" role="alert">{{ trouble }}</p>
    <ObjectGrid
      :grid="grid"
      :design="design"
      :at="at"
      @paste="pasted = $event"
      @remove="removing.remove(grid.type, $event)"
    >
      <ElButton class="form" @click="adding = true">Add in a form …</ElButton>
      <ElButton v-if="pasted === null" class="paste" @click="pasted = ''">Paste rows …</ElButton>
    </ObjectGrid>
    <RowForm v-if="adding" :id="NEW" :grid="grid" :design="design" @close="adding = false" />
    <RemovalDialog :removing="removing" />
  </div>
</template>

<style scoped>
.grid-panel {
  display: flex;
  flex: 1;
  flex-direction: column;
  gap: 8px;
  min-height: 180px;
  padding: 8px 16px 12px;
}
.form {
  margin-left: auto;
}
</style>
