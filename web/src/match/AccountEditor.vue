<script setup lang="ts">
import { ref } from 'vue'
import type { AcceptedAccount } from '@/api/types'
import SecretField from './SecretField.vue'
import { useVault } from './useVault'

/** An account as its caller uses it, or, with `accepted`, as the other end has made it. */
const props = defineProps<{ account: Partial<AcceptedAccount> | null; accepted: boolean }>()
const emit = defineEmits<{ save: [account: object | null]; close: [] }>()
const { trouble, busy, keep } = useVault()
const name = ref(props.account?.name ?? '')
const kind = ref(props.account?.kind ?? 'tunnel')
const enabled = ref(props.account?.enabled ?? true)
const secret = ref('')

async function save(): Promise<void> {
  let facts = props.account?.secret ?? null
  if (secret.value) {
    facts = await keep({ how: 'set', secret: secret.value })
    if (!facts) return
  }
  const base = { name: name.value, secret: facts }
  emit('save', props.accepted ? { ...base, kind: kind.value, enabled: enabled.value } : base)
}
</script>

<template>
  <form @submit.prevent="save">
    <label>Name <input v-model="name" class="figures" autocomplete="off" spellcheck="false" /></label>
    <template v-if="accepted">
      <label>
        Kind
        <select v-model="kind">
          <option value="tunnel">for a gateway that calls</option>
          <option value="person">for a person</option>
          <option value="administration">for administering the device</option>
        </select>
      </label>
      <label class="check"><input v-model="enabled" type="checkbox" /> Enabled</label>
    </template>
    <p v-if="account?.secret" class="muted">
      Secret <span class="figures">{{ account.secret.fingerprint }}</span>,
      {{ account.secret.length }} characters
    </p>
    <SecretField v-model="secret" what="secret" />
    <div class="buttons">
      <button class="plain-button primary" type="submit" :disabled="!name || busy">Save</button>
      <button class="plain-button" type="button" @click="emit('close')">Cancel</button>
      <button class="plain-button" type="button" @click="emit('save', null)">Not known</button>
    </div>
    <p v-if="trouble" class="field-error" role="alert">{{ trouble }}</p>
  </form>
</template>

<style scoped>
label {
  display: block;
  margin-bottom: 4px;
}
input:not([type='checkbox']),
select {
  width: 100%;
  padding: 3px 6px;
  background: var(--card);
  border: 1px solid var(--line);
  border-radius: 3px;
}
.buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}
</style>
