<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { CloudAccount } from '@/api/types'
import { useDoing } from '@/design/useDoing'
import CompareFingerprint from '@/ui/CompareFingerprint.vue'
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
  <form class="access plain-fields" :aria-label="`How ${account.account} is reached`" @submit.prevent="keep">
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
    <CompareFingerprint
      v-model="isCompared"
      :shown="shown"
      what="The cloud's own certificate"
      :disabled="!address.trim()"
      @ask="ask"
    />
    <p v-if="trouble" class="field-error wide" role="alert">{{ trouble }}</p>
    <div class="wide buttons">
      <ElButton type="primary" native-type="submit" :disabled="!isWhole || busy">Save</ElButton>
      <ElButton @click="emit('close')">Cancel</ElButton>
      <ElButton v-if="account.address" :disabled="busy" @click="emit('forget')"
        >Forget how it is reached</ElButton
      >
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
  margin: 10px 0;
  background: var(--card);
  border: 1px solid var(--line);
  border-radius: 3px;
}
.wide {
  flex: 1 0 100%;
  margin: 0;
}
.buttons .el-button {
  margin: 0 6px 0 0;
}
</style>
