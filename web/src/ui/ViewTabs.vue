<script setup lang="ts">
/** The panels of a view as tabs: the one that is open stands below, and its name in the address. */
defineProps<{ tabs: Readonly<Record<string, string>>; label: string }>()
const open = defineModel<string>({ required: true })
</script>

<template>
  <div class="view-tabs">
    <ElTabs v-model="open" :aria-label="label">
      <ElTabPane v-for="(title, name) in tabs" :key="name" :name="name" :label="title">
        <slot v-if="name === open" />
      </ElTabPane>
      <slot v-if="!(open in tabs)" />
    </ElTabs>
    <div class="beside"><slot name="beside" /></div>
  </div>
</template>

<style scoped>
.view-tabs {
  position: relative;
  display: flex;
  flex-direction: column;
  min-width: 0;
}
.el-tabs {
  flex: 1;
  min-height: 0;
}
.beside {
  position: absolute;
  top: 5px;
  right: 16px;
}
:deep(.el-tabs__header) {
  padding: 4px 16px 0;
  margin: 0;
}
:deep(.el-tabs__content) {
  display: flex;
  flex: 1;
  flex-direction: column;
  min-height: 0;
  overflow: auto;
}
:deep(.el-tab-pane) {
  display: flex;
  flex: 1;
  flex-direction: column;
  min-height: 0;
}
:deep(.el-tabs__item) {
  height: 30px;
  padding: 0 10px;
  font-weight: 400;
}
:deep(.el-tabs__item.is-active) {
  font-weight: 600;
}
</style>
