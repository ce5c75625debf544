<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { CloudAccount } from '@/api/types'
import { useDoing } from '@/design/useDoing'
import AccessForm from '@/ui/AccessForm.vue'
import type { NewCloudAccount } from './useClouds'

/** How an account is reached. What the cloud shows is compared before anything is sent to it; the token isn't shown again. */
const props = defineProps<{
  account: CloudAccount
  shownBy: (address: string) => Promise<string>
  busy: boolean
}>()
const emit = defineEmits<{ keep: [way: NewCloudAccount]; forget: []; close: [] }>()
const address = ref(props.account.address)
const token = ref('')
const shown = ref('')
const isCompared = ref(false)
const { trouble, doing } = useDoing()
const isWhole = computed(() => Boolean(address.value && token.value && isCompared.value))

watch(address, () => {
  shown.value = ''
  isCompared.value = false
})
const ask = () =>
  doing(async () => {
    shown.value = await props.shownBy(address.value.trim())
  })
function keep(): void {
  emit('keep', {
    account: props.account.account,
    address: address.value.trim(),
    token: token.value,
    fingerprint: shown.value,
  })
}
</script>

<template>
  <AccessForm
    v-model="isCompared"
    :label="`How ${account.account} is reached`"
    :shown="shown"
    what="The cloud's own certificate"
    :can-ask="Boolean(address.trim())"
    :is-whole="isWhole"
    :is-known="Boolean(account.address)"
    :busy="busy"
    :trouble="trouble"
    @ask="ask"
    @keep="keep"
    @forget="emit('forget')"
    @close="emit('close')"
  >
    <label>Host and port <ElInput v-model="address" maxlength="260" placeholder="host:443" /></label>
    <label class="wide">
      Token of {{ account.account }}
      <ElInput
        v-model="token"
        type="password"
        maxlength="4000"
        autocomplete="new-password"
        :placeholder="account.address ? 'enter it again' : ''"
      />
    </label>
  </AccessForm>
</template>
