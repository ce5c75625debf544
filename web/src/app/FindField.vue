<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, bodyOf } from '@/api/client'
import type { Hit } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import { routeOf } from './places'

const router = useRouter()
const { designId } = useOpenDesign()
const text = ref('')
const field = ref<{ focus: () => void }>()

async function ask(question: string, answer: (hits: Hit[]) => void): Promise<void> {
  if (!question.trim()) return answer([])
  const params = { path: { design_id: designId.value }, query: { q: question } }
  try {
    answer(await bodyOf(api.GET('/api/designs/{design_id}/find', { params })))
  } catch {
    answer([])
  }
}
function go(hit: Record<string, unknown>): void {
  text.value = ''
  void router.push(routeOf(designId.value, hit as unknown as Hit))
}
useEventListener(document, 'keydown', (event: KeyboardEvent) => {
  if (event.key !== '/' || (event.target as HTMLElement).closest('input, textarea, select')) return
  event.preventDefault()
  field.value?.focus()
})
</script>

<template>
  <el-autocomplete
    ref="field"
    v-model="text"
    class="find-field"
    :fetch-suggestions="ask"
    :trigger-on-focus="false"
    highlight-first-item
    aria-label="Find or ask: site, tunnel, prefix or address"
    placeholder="Find or ask: name, prefix, address  ( / )"
    @select="go"
  >
    <template #default="{ item }">
      <div class="hit">
        <span>{{ item.name }}</span>
        <span class="muted">{{ item.type }} · {{ item.detail }}</span>
      </div>
    </template>
  </el-autocomplete>
</template>

<style scoped>
.hit {
  display: flex;
  gap: 10px;
  justify-content: space-between;
  max-width: 460px;
}
.hit span {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
