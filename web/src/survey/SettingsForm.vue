<script setup lang="ts">
import { ref, watch } from 'vue'
import type { AlgorithmPolicy, Design } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import PolicyEditor from './PolicyEditor.vue'

const props = defineProps<{ design: Design }>()
const { change, refusal, dismissRefusal } = useOpenDesign()
const name = ref('')
const supernets = ref('')
const policies = ref<AlgorithmPolicy[]>([])
const policyId = ref('')
const horizon = ref(60)
const errors = ref<Record<string, string>>({})

async function save(): Promise<void> {
  const object = {
    name: name.value,
    supernets: supernets.value.split(/[\s,;]+/).filter(Boolean),
    policies: policies.value,
    policy_id: policyId.value,
    planning_horizon_days: horizon.value,
  }
  errors.value = {}
  if (await change([{ op: 'put-settings', object }], 'Edit the design’s own settings')) return
  const found = refusal.value?.errors ?? []
  errors.value = Object.fromEntries(found.map((error) => [error.pointer.split('/')[4] ?? '', error.detail]))
  if (found.length) dismissRefusal() // it stands beside the field
}
watch(
  () => props.design.revision,
  () => {
    name.value = props.design.name
    supernets.value = props.design.supernets.join(', ')
    policies.value = props.design.policies
    policyId.value = props.design.policy_id
    horizon.value = props.design.planning_horizon_days
    errors.value = {}
  },
  { immediate: true },
)
</script>

<template>
  <form class="settings" @submit.prevent="save">
    <label>
      Name of the design
      <ElInput v-model="name" maxlength="80" :aria-invalid="Boolean(errors.name)" />
    </label>
    <p v-if="errors.name" class="field-error" role="alert">{{ errors.name }}</p>
    <label>
      Supernets: address space that the organisation may use inside; room for renumbering is sought in it
      <ElInput
        v-model="supernets"
        class="figures"
        placeholder="10.64.0.0/11, fd5c:9a1e:40::/48"
        :aria-invalid="Boolean(errors.supernets)"
        spellcheck="false"
      />
    </label>
    <p v-if="errors.supernets" class="field-error" role="alert">{{ errors.supernets }}</p>
    <label>
      Planning horizon, days: what ends within it is told in time
      <ElInputNumber v-model="horizon" :min="0" :max="3650" :controls="false" align="left" />
    </label>
    <p v-if="errors.planning_horizon_days" class="field-error" role="alert">
      {{ errors.planning_horizon_days }}
    </p>
    <PolicyEditor v-model:policies="policies" v-model:in-force="policyId" />
    <p v-if="errors.policies || errors['']" class="field-error" role="alert">
      {{ errors.policies ?? errors[''] }}
    </p>
    <ElButton type="primary" native-type="submit">Save</ElButton>
  </form>
</template>

<style scoped>
.settings {
  max-width: 620px;
}
label {
  display: block;
  margin-bottom: 8px;
}
label .el-input-number {
  display: block;
}
.field-error {
  margin-bottom: 8px;
}
</style>
