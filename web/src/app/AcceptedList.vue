<script setup lang="ts">
import type { Finding } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import { keyOf } from './grouping'

/** What somebody lives with, until when and why. */
defineProps<{ findings: readonly Finding[] }>()
const { change } = useOpenDesign()

function takeBack(finding: Finding): void {
  const id = finding.accepted?.id
  if (id)
    void change(
      [{ op: 'remove', type: 'acceptance', id, cascade: false }],
      `Accept no longer: ${finding.title}`,
    )
}
</script>

<template>
  <ElCollapse class="accepted">
    <ElCollapseItem :title="`Accepted: ${findings.length}`" name="accepted">
      <article v-for="finding in findings" :key="keyOf(finding)">
        <strong>{{ finding.title }}</strong>
        <p>{{ finding.why }}</p>
        <p class="muted">
          Accepted until {{ finding.accepted?.until
          }}{{ finding.accepted?.accepted_by ? ` by ${finding.accepted.accepted_by}` : '' }}:
          {{ finding.accepted?.reason }}
        </p>
        <ElButton @click="takeBack(finding)">Take back</ElButton>
      </article>
    </ElCollapseItem>
  </ElCollapse>
</template>

<style scoped>
.accepted {
  margin-top: 12px;
}
article {
  padding: 6px 0;
  border-bottom: 1px solid var(--line);
}
p {
  margin: 2px 0;
  font-size: 12px;
}
</style>
