<script setup lang="ts">
import { computed, ref } from 'vue'
import type { RolloutShown } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import { dateAndTime } from '@/ui/words'
import { useVersionDifference } from './usePeople'

/** The versions of a profile as they were signed, and what is new in one: field by field, and what that means for traffic. */
const props = defineProps<{ profileId: string; versions: RolloutShown['versions'] }>()
const session = useOpenDesign()
const open = ref(0)
const since = computed(() => open.value - 1)
const { data } = useVersionDifference(
  session,
  computed(() => props.profileId),
  since,
  open,
)
const pathOf = (number: number) =>
  `/api/designs/${session.designId.value}/profiles/${props.profileId}/versions/${number}`
const difference = computed(() => (data.value?.until === open.value ? data.value : null))
</script>

<template>
  <ul v-if="versions.length" class="versions" aria-label="Versions">
    <li v-for="version in versions.slice(0, 5)" :key="version.number">
      <strong>Version {{ version.number }}</strong>
      <span>{{ version.remark }}</span>
      <span class="muted">{{ version.made_by }}, {{ dateAndTime(version.made_at) }}</span>
      <a :href="`${pathOf(version.number)}/file`">Signed file</a>
      <a :href="`${pathOf(version.number)}/page`" target="_blank" rel="noopener">Page to sign</a>
      <ElButton
        v-if="version.number > 1"
        link
        type="primary"
        :aria-expanded="open === version.number"
        @click="open = open === version.number ? 0 : version.number"
        >What is new</ElButton
      >
      <div v-if="difference && open === version.number" class="new" role="status">
        <p v-for="field in difference.fields" :key="field.title">
          {{ field.title }}: <span class="figures">{{ field.before }} → {{ field.after }}</span>
        </p>
        <p v-for="meaning in difference.means" :key="meaning" class="means">{{ meaning }}</p>
        <p v-if="!difference.means.length" class="muted">No traffic goes otherwise.</p>
      </div>
    </li>
  </ul>
</template>

<style scoped>
.versions {
  padding: 0;
  margin: 6px 0;
  list-style: none;
}
li {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  align-items: baseline;
  padding: 3px 0;
  border-bottom: 1px solid var(--line);
}
.new {
  flex: 1 0 100%;
  padding: 2px 0 4px 12px;
}
.means {
  font-weight: 500;
}
</style>
