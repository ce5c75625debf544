<script setup lang="ts">
import { RefreshLeft, RefreshRight } from '@element-plus/icons-vue'
import { computed } from 'vue'
import { useOpenDesign } from '@/design/useDesignSession'
import ExportButton from './ExportButton.vue'
import FindField from './FindField.vue'
import ProductMark from './ProductMark.vue'
import { useTheme } from './useTheme'

const { design, designId, history, saveState, loadError, undo, redo } = useOpenDesign()
const { dark, toggleDark } = useTheme()
const state = computed(() => {
  if (loadError.value) return 'not in touch with the server'
  return { saved: 'saved', saving: 'saving …', refused: 'last change refused' }[saveState.value]
})
</script>

<template>
  <header class="bar">
    <RouterLink class="home" to="/" title="All designs"><ProductMark /><strong>Pontifex</strong></RouterLink>
    <div class="design">
      <h1>{{ design?.name ?? designId }}</h1>
      <span class="muted" role="status"
        ><RouterLink class="revision" :to="{ name: 'history', params: { designId } }"
          >Revision {{ design?.revision ?? '…' }}</RouterLink
        >
        · {{ state }}</span
      >
    </div>
    <div class="find"><FindField /></div>
    <ElButton
      class="icon"
      :disabled="!history?.undo"
      :title="history?.undo ? `Undo: ${history.undo} (Ctrl-Z)` : 'Nothing to undo'"
      @click="undo"
    >
      <RefreshLeft class="glyph" />Undo
    </ElButton>
    <ElButton
      class="icon"
      :disabled="!history?.redo"
      :title="history?.redo ? `Redo: ${history.redo} (Ctrl-Shift-Z)` : 'Nothing to redo'"
      @click="redo"
    >
      <RefreshRight class="glyph" />Redo
    </ElButton>
    <ExportButton />
    <ElButton @click="toggleDark()">{{ dark ? 'Light' : 'Dark' }}</ElButton>
  </header>
</template>

<style scoped>
.bar {
  display: flex;
  gap: 8px;
  align-items: center;
  padding: 0 12px;
  background: var(--card);
  border-bottom: 1px solid var(--line);
}
.home {
  display: flex;
  gap: 6px;
  align-items: center;
  width: 116px;
  color: var(--ink);
  text-decoration: none;
}
.design {
  display: flex;
  flex: 1;
  gap: 10px;
  align-items: baseline;
  min-width: 0;
  white-space: nowrap;
}
h1 {
  overflow: hidden;
  font-size: 15px;
  text-overflow: ellipsis;
}
.revision {
  color: inherit;
}
.find {
  flex: 0 1 272px;
}
.icon {
  display: inline-flex;
  gap: 4px;
  align-items: center;
}
.glyph {
  width: 13px;
  height: 13px;
}
@media (max-width: 1020px) {
  .bar {
    flex-wrap: wrap;
    padding: 6px 12px;
  }
  .design {
    flex: 1 0 auto;
  }
}
</style>
