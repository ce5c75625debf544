<script setup lang="ts">
import { useOpenDesign } from '@/design/useDesignSession'

const { refusal, dismissRefusal } = useOpenDesign()
</script>

<template>
  <section v-if="refusal" class="refusal" role="alert">
    <div>
      <h3>{{ refusal.title }}</h3>
      <ul v-if="refusal.errors.length">
        <li v-for="error in refusal.errors.slice(0, 5)" :key="error.pointer">{{ error.detail }}</li>
      </ul>
      <p v-else>{{ refusal.detail }}</p>
      <ul v-if="refusal.meanwhile.length">
        <li v-for="change in refusal.meanwhile" :key="change.revision">
          Revision {{ change.revision }}, {{ change.author }}: {{ change.note }}
          <span v-for="(field, at) in change.fields" :key="at" class="muted">
            · {{ field.name }} {{ field.field }}: {{ field.before }} → {{ field.after }}
          </span>
        </li>
        <li v-if="refusal.meanwhile_count > refusal.meanwhile.length" class="muted">
          and {{ refusal.meanwhile_count - refusal.meanwhile.length }} changes before
        </li>
      </ul>
    </div>
    <ElButton @click="dismissRefusal">Understood</ElButton>
  </section>
</template>

<style scoped>
.refusal {
  display: flex;
  gap: 16px;
  align-items: start;
  justify-content: space-between;
  padding: 10px 16px;
  background: var(--madder-wash);
  border-bottom: 1px solid var(--madder);
}
h3 {
  color: var(--madder);
}
ul {
  margin: 2px 0 0;
  padding-left: 16px;
}
</style>
