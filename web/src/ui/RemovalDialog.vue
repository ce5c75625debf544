<script setup lang="ts">
import { computed } from 'vue'
import { kindOf } from '@/design/kinds'
import type { Removing } from '@/design/useRemoval'
import ChangeTable from './ChangeTable.vue'

/** What goes with an object that others hang on, before it goes. */
const props = defineProps<{ removing: Removing }>()
const emit = defineEmits<{ removed: [] }>()
const asked = computed(() => props.removing.asked.value)
const gone = computed(() => (asked.value?.goesToo ?? []).filter((candidate) => !candidate.field))
const changed = computed(() => (asked.value?.goesToo ?? []).filter((candidate) => candidate.field))

async function confirm(): Promise<void> {
  if (asked.value && (await props.removing.carryOut(asked.value))) emit('removed')
}
const cancel = () => props.removing.cancel()
</script>

<template>
  <ElDialog
    :model-value="asked !== null"
    :title="`Remove ${asked?.title}?`"
    width="520"
    append-to-body
    @update:model-value="cancel"
  >
    <p>
      {{ asked?.goesToo.length === 1 ? 'One thing goes' : `${asked?.goesToo.length} things go` }} or change
      with it. Undo brings all of it back.
    </p>
    <div class="list" tabindex="0" role="group" aria-label="What goes with it">
      <ul>
        <li v-for="lost in gone" :key="lost.type + lost.id">
          {{ kindOf(lost.type)?.label }} {{ lost.name }}
        </li>
      </ul>
      <ChangeTable :changes="changed" />
    </div>
    <template #footer>
      <ElButton @click="cancel">Cancel</ElButton>
      <ElButton type="danger" @click="confirm">Remove all of it</ElButton>
    </template>
  </ElDialog>
</template>

<style scoped>
ul {
  padding-left: 18px;
  margin: 0 0 8px;
}
.list {
  max-height: 50vh;
  margin-top: 8px;
  overflow: auto;
}
</style>
