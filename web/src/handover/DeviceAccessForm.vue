<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { Refusal } from '@/api/client'
import { useOpenDesign } from '@/design/useDesignSession'
import CompareFingerprint from '@/ui/CompareFingerprint.vue'
import SelectField from '@/ui/SelectField.vue'
import { PROTOCOL_WORDS, shownBy, type DeviceAccess, type NewDevice } from './useDevices'

/** How a device is reached. What it shows is compared before anything is sent to it; the secret isn't shown again. */
const props = defineProps<{ access: DeviceAccess | undefined; busy: boolean }>()
const emit = defineEmits<{ keep: [way: NewDevice]; forget: []; close: [] }>()
const { designId } = useOpenDesign()
const protocol = ref(props.access?.protocol ?? 'restconf')
const address = ref(props.access?.address ?? '')
const user = ref(props.access?.user ?? '')
const secret = ref('')
const shown = ref('')
const isCompared = ref(false)
const trouble = ref('')
const PROTOCOLS = (['restconf', 'ssh'] as const).map((value) => ({
  value,
  label: value === 'ssh' ? 'SSH, a Linux machine' : 'RESTCONF',
}))
const isWhole = computed(() => Boolean(address.value && user.value && secret.value && isCompared.value))

watch([protocol, address], () => {
  shown.value = ''
  isCompared.value = false
})
async function ask(): Promise<void> {
  trouble.value = ''
  try {
    shown.value = await shownBy(designId.value, protocol.value, address.value.trim())
  } catch (failed) {
    if (!(failed instanceof Refusal)) throw failed
    trouble.value = failed.problem.detail
  }
}
function keep(): void {
  emit('keep', {
    protocol: protocol.value,
    address: address.value.trim(),
    user: user.value.trim(),
    secret: secret.value,
    fingerprint: shown.value,
  })
  secret.value = ''
}
</script>

<template>
  <form class="access plain-fields" aria-label="How the device is reached" @submit.prevent="keep">
    <p v-if="access" class="muted">
      Now by {{ PROTOCOL_WORDS[access.protocol] }} at {{ access.address }} as {{ access.user }}.
    </p>
    <SelectField v-model="protocol" label="Protocol" :options="PROTOCOLS" />
    <label>
      Host and port
      <ElInput v-model="address" maxlength="260" :placeholder="protocol === 'ssh' ? 'host:22' : 'host:443'" />
    </label>
    <label>User <ElInput v-model="user" maxlength="80" autocomplete="off" /></label>
    <label class="wide">
      {{ protocol === 'ssh' ? 'Private key, or password' : 'Password' }}
      <ElInput
        v-model="secret"
        :type="protocol === 'ssh' ? 'textarea' : 'password'"
        :rows="2"
        maxlength="20000"
        autocomplete="new-password"
        :placeholder="access ? 'enter it again' : ''"
      />
    </label>
    <CompareFingerprint
      v-model="isCompared"
      :shown="shown"
      :what="`The device's own ${protocol === 'ssh' ? 'host key' : 'certificate'}`"
      :disabled="!address.trim()"
      @ask="ask"
    />
    <p v-if="trouble" class="field-error wide" role="alert">{{ trouble }}</p>
    <div class="wide buttons">
      <ElButton type="primary" native-type="submit" :disabled="!isWhole || busy">Save</ElButton>
      <ElButton @click="emit('close')">Cancel</ElButton>
      <ElButton v-if="access" :disabled="busy" @click="emit('forget')">Forget how it is reached</ElButton>
    </div>
  </form>
</template>

<style scoped>
.access {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 14px;
  align-items: flex-end;
  padding: 8px 10px;
  margin: 6px 0;
  background: var(--card);
  border: 1px solid var(--line);
  border-radius: 3px;
}
.access > p,
.wide {
  flex: 1 0 100%;
  margin: 0;
}
.buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 10px;
  align-items: center;
}
.buttons .el-button {
  margin: 0;
}
</style>
