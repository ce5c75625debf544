<script setup lang="ts">
import { useOpenDesign } from '@/design/useDesignSession'
import ChangeTable from '@/ui/ChangeTable.vue'
import { dateAndTime } from '@/ui/words'

const { history } = useOpenDesign()
</script>

<template>
  <section class="history">
    <h2>Changes, newest first</h2>
    <p v-if="history && !history.changes.length" class="muted">Nothing was changed yet.</p>
    <ol>
      <li v-for="change in history?.changes" :key="change.revision">
        <div class="head">
          <strong class="figures">{{ change.revision }}</strong>
          <span>{{
            change.kind === 'edit' ? change.note : `${change.kind} of ${change.target}: ${change.note}`
          }}</span>
          <span class="muted">{{ change.author }}, {{ dateAndTime(change.made_at) }}</span>
        </div>
        <ChangeTable :changes="change.fields" />
      </li>
    </ol>
  </section>
</template>

<style scoped>
.history {
  padding: 16px;
}
ol {
  margin: 8px 0;
  padding: 0;
  list-style: none;
}
li {
  margin-bottom: 8px;
  padding: 8px 12px;
  background: var(--card);
  border: 1px solid var(--line);
  border-radius: 3px;
}
.head {
  display: flex;
  gap: 10px;
  margin-bottom: 4px;
}
.head .muted {
  margin-left: auto;
  white-space: nowrap;
}
</style>
