<script setup lang="ts">
import type { FieldChange } from '@/api/types'

defineProps<{ changes: readonly FieldChange[] }>()
</script>

<template>
  <dl class="changes">
    <template v-for="(change, at) in changes" :key="at">
      <dt>
        {{ change.name }}<template v-if="change.field"> · {{ change.field }}</template>
      </dt>
      <dd class="figures">
        <del>{{ change.before }}</del> <span aria-label="becomes">→</span> <ins>{{ change.after }}</ins>
      </dd>
    </template>
  </dl>
</template>

<style scoped>
.changes {
  margin: 0;
  font-size: 12px;
}
dt {
  color: var(--muted);
}
dd {
  margin: 0 0 4px;
  overflow-wrap: anywhere;
}
del {
  color: var(--madder);
  text-decoration: none;
}
ins {
  color: var(--verdigris);
  font-weight: 500;
  text-decoration: none;
}
</style>
