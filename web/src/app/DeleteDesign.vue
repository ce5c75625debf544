<script setup lang="ts">
/** Deleting a design: confirmed by typing its name, since the list may hold several alike. */
import { computed, ref, watch } from 'vue'
import type { DesignSummary } from '@/api/types'

const props = defineProps<{ send: (design: DesignSummary) => Promise<unknown> }>()
const design = defineModel<DesignSummary | null>({ required: true })
const typed = ref('')
const isConfirmed = computed(() => typed.value.trim() === design.value?.name)

watch(design, () => {
  typed.value = ''
})

async function remove(): Promise<void> {
  if (!design.value || !isConfirmed.value) return
  if ((await props.send(design.value)) !== null) design.value = null
}
</script>

<template>
  <ElDialog :model-value="design !== null" title="Delete a design" width="440" @close="design = null">
    <form v-if="design" @submit.prevent="remove">
      <p>
        <strong>{{ design.name }}</strong> ({{ design.id }}) has {{ design.sites }}
        {{ design.sites === 1 ? 'site' : 'sites' }} and {{ design.tunnels }}
        {{ design.tunnels === 1 ? 'tunnel' : 'tunnels' }}. It can be restored within 30 days. Type its name to
        delete it.
      </p>
      <ElInput
        v-model="typed"
        aria-label="Name of the design to delete"
        :placeholder="design.name"
        autofocus
      />
    </form>
    <template #footer>
      <ElButton @click="design = null">Cancel</ElButton>
      <ElButton type="danger" :disabled="!isConfirmed" @click="remove">Delete</ElButton>
    </template>
  </ElDialog>
</template>
