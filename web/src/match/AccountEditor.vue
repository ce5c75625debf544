<script setup lang="ts">
import { ref, watch } from 'vue'
import type { AcceptedAccount } from '@/api/types'
import SelectField from '@/ui/SelectField.vue'
import SecretField from './SecretField.vue'
import { useVault } from './useVault'

/** An account as its caller uses it, or, with `accepted`, as the other end has made it. */
const props = defineProps<{
  account: Partial<AcceptedAccount> | null
  accepted: boolean
  save: (account: object | null) => void // not an event: the vault may answer when the editor is gone
}>()
const emit = defineEmits<{ typed: []; close: [] }>()
const { trouble, busy, keep } = useVault()
const name = ref(props.account?.name ?? '')
const kind = ref(props.account?.kind ?? 'tunnel')
const enabled = ref(props.account?.enabled ?? true)
const secret = ref('')

const KINDS: { value: AcceptedAccount['kind']; label: string }[] = [
  { value: 'tunnel', label: 'for a gateway that calls' },
  { value: 'person', label: 'for a person' },
  { value: 'administration', label: 'for administering the device' },
]

watch([name, kind, enabled], () => emit('typed'))
async function keepAndSave(): Promise<void> {
  const { save } = props
  emit('typed')
  let facts = props.account?.secret ?? null
  if (secret.value) {
    facts = await keep({ how: 'set', secret: secret.value })
    if (!facts) return
  }
  const base = { name: name.value, secret: facts }
  save(props.accepted ? { ...base, kind: kind.value, enabled: enabled.value } : base)
}
</script>

<template>
  <form @submit.prevent="keepAndSave">
    <label>Name <ElInput v-model="name" class="figures" autocomplete="off" spellcheck="false" /></label>
    <template v-if="accepted">
      <SelectField v-model="kind" label="Kind" :options="KINDS" />
      <ElCheckbox v-model="enabled">Enabled</ElCheckbox>
    </template>
    <p v-if="account?.secret" class="muted">
      Secret <span class="figures">{{ account.secret.fingerprint }}</span>,
      {{ account.secret.length }} characters
    </p>
    <SecretField v-model="secret" what="secret" @typed="emit('typed')" />
    <div class="buttons">
      <ElButton type="primary" native-type="submit" :disabled="!name || busy">Save</ElButton>
      <ElButton @click="emit('close')">Cancel</ElButton>
      <ElButton @click="props.save(null)">Not known</ElButton>
    </div>
    <p v-if="trouble" class="field-error" role="alert">{{ trouble }}</p>
  </form>
</template>

<style scoped>
label {
  display: block;
  margin-bottom: 4px;
}
.buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}
</style>
