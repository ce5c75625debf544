<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { Refusal } from '@/api/client'
import { useOpenDesign } from '@/design/useDesignSession'
import AccessForm from '@/ui/AccessForm.vue'
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
  <AccessForm
    v-model="isCompared"
    label="How the device is reached"
    :shown="shown"
    :what="`The device's own ${protocol === 'ssh' ? 'host key' : 'certificate'}`"
    :can-ask="Boolean(address.trim())"
    :is-whole="isWhole"
    :is-known="Boolean(access)"
    :busy="busy"
    :trouble="trouble"
    @ask="ask"
    @keep="keep"
    @forget="emit('forget')"
    @close="emit('close')"
  >
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
  </AccessForm>
</template>
