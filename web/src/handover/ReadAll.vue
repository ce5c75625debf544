<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { ref } from 'vue'
import { Refusal } from '@/api/client'
import { useOpenDesign } from '@/design/useDesignSession'
import { actAt, type DeviceAccess } from './useDevices'

/** All devices that are reached from here, read one after the other; those that don't answer are named. */
const props = defineProps<{ accesses: readonly DeviceAccess[]; names: ReadonlyMap<string, string> }>()
const { designId } = useOpenDesign()
const client = useQueryClient()
const done = ref(0)
const isReading = ref(false)
const silent = ref<string[]>([])

async function readAll(): Promise<void> {
  isReading.value = true
  done.value = 0
  silent.value = []
  for (const { gateway_id } of props.accesses) {
    try {
      await actAt(designId.value, gateway_id, 'reading')
    } catch (failed) {
      if (!(failed instanceof Refusal)) throw failed
      silent.value.push(`${props.names.get(gateway_id) ?? gateway_id}: ${failed.problem.detail}`)
    }
    done.value += 1
    await client.invalidateQueries({ queryKey: ['drift', designId.value] })
  }
  isReading.value = false
}
</script>

<template>
  <div v-if="accesses.length" class="all">
    <ElButton type="primary" :loading="isReading" @click="readAll">Read all that are reached</ElButton>
    <span v-if="done || isReading" role="status">{{ done }} of {{ accesses.length }} read</span>
    <p v-for="line in silent" :key="line" class="field-error" role="alert">{{ line }}</p>
  </div>
</template>

<style scoped>
.all {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 10px;
  align-items: center;
  margin-bottom: 8px;
}
.all > p {
  flex: 1 0 100%;
  margin: 0;
}
</style>
