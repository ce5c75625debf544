<script setup lang="ts">
import { ref, toRef } from 'vue'
import { useOpenDesign } from '@/design/useDesignSession'
import DeviceAccessForm from './DeviceAccessForm.vue'
import { PROTOCOL_WORDS, useAccess, useDevice, type NewDevice } from './useDevices'

/** What can be done at a device that is reached from here: read it, enter what is intended, save, restart. */
const props = defineProps<{ gatewayId: string; off: readonly string[] }>() // off: settings not as intended
const session = useOpenDesign()
const gatewayId = toRef(() => props.gatewayId)
const access = useAccess(session, gatewayId)
const { busy, said, trouble, act, enter, keep, forget } = useDevice(session, gatewayId)
const isAsking = ref(false)
defineExpose({ enter })

async function keepWay(way: NewDevice): Promise<void> {
  if (await keep(way)) isAsking.value = false
}
async function forgetWay(): Promise<void> {
  if (await forget()) isAsking.value = false
}
</script>

<template>
  <div class="actions">
    <div class="buttons">
      <template v-if="access">
        <ElButton type="primary" :disabled="Boolean(busy)" @click="act('reading')">Read it now</ElButton>
        <ElButton v-if="off.length" :disabled="Boolean(busy)" @click="enter([...off])">
          {{ off.length === 1 ? 'Enter it' : `Enter all ${off.length}` }} as intended
        </ElButton>
        <ElButton :disabled="Boolean(busy)" @click="act('saving')">Save on the device</ElButton>
        <ElPopconfirm
          title="Restart the device? What isn't saved is lost, and its tunnels are down meanwhile."
          width="300"
          confirm-button-text="Restart"
          cancel-button-text="Cancel"
          @confirm="act('restart')"
        >
          <template #reference>
            <ElButton :disabled="Boolean(busy)">Restart …</ElButton>
          </template>
        </ElPopconfirm>
      </template>
      <ElButton link :aria-expanded="isAsking" @click="isAsking = !isAsking">{{
        access
          ? `Reached by ${PROTOCOL_WORDS[access.protocol]} at ${access.address} …`
          : 'Say how it is reached …'
      }}</ElButton>
      <span v-if="busy" role="status">{{ busy }}</span>
      <span v-else-if="said" role="status">{{ said }}</span>
    </div>
    <p v-if="trouble" class="field-error" role="alert">{{ trouble }}</p>
    <DeviceAccessForm
      v-if="isAsking"
      :access="access"
      :busy="Boolean(busy)"
      @keep="keepWay"
      @forget="forgetWay"
      @close="isAsking = false"
    />
  </div>
</template>

<style scoped>
.buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 8px;
  align-items: center;
}
.buttons .el-button {
  margin: 0;
}
.field-error {
  margin: 6px 0;
}
</style>
