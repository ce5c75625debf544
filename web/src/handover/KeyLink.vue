<script setup lang="ts">
import { useClipboard } from '@vueuse/core'
import { computed, ref } from 'vue'
import { api, bodyOf } from '@/api/client'
import type { components } from '@/api/schema'
import type { Tunnel } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import { useDoing } from '@/design/useDoing'

/** The tunnel's key by a separate channel: the link goes one way, the code is spoken on another. */
const props = defineProps<{ tunnel: Tunnel }>()
const { designId } = useOpenDesign()
const { copy, copied } = useClipboard()
const made = ref<components['schemas']['MadeKeyLink'] | null>(null)
const { trouble, doing } = useDoing()
const reference = computed(() => props.tunnel.left.key?.reference ?? props.tunnel.right.key?.reference)
const address = computed(() => (made.value ? `${location.origin}${made.value.path}` : ''))

async function make(): Promise<void> {
  made.value = null
  const wanted = reference.value
  if (!wanted) return
  await doing(async () => {
    made.value = await bodyOf(
      api.POST('/api/designs/{design_id}/key-links', {
        params: { path: { design_id: designId.value } },
        body: { reference: wanted, hours: 24 },
      }),
    )
  })
}
</script>

<template>
  <section v-if="reference" class="key plain-fields" aria-label="The key by a separate channel">
    <div class="head">
      <h3>The key by a separate channel</h3>
      <ElButton @click="make">Make a link to the key</ElButton>
      <span class="muted">It shows the key once, to whoever has the code as well, within a day.</span>
    </div>
    <p v-if="trouble" class="field-error" role="alert">{{ trouble }}</p>
    <dl v-if="made" role="status">
      <dt>Send this link</dt>
      <dd>
        <span class="figures">{{ address }}</span>
        <ElButton @click="copy(address)">{{ copied ? 'Copied' : 'Copy' }}</ElButton>
      </dd>
      <dt>Say this code</dt>
      <dd>
        <strong class="figures">{{ made.code }}</strong> {{ made.spoken }}
      </dd>
    </dl>
  </section>
</template>

<style scoped>
.key {
  padding: 6px 10px;
  margin: 8px 0;
  background: var(--card);
  border: 1px solid var(--line);
  border-radius: 3px;
}
.head {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  align-items: center;
}
h3 {
  margin: 0;
  font-size: 13px;
}
dl {
  display: grid;
  grid-template-columns: 110px minmax(0, 1fr);
  gap: 4px 10px;
  margin: 6px 0 0;
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
</style>
