<script setup lang="ts">
import { ref, watch } from 'vue'
import type { AlgorithmPolicy, Design } from '@/api/types'
import { useChangeHere } from '@/design/useChangeHere'
import PolicyEditor from './PolicyEditor.vue'

const props = defineProps<{ design: Design }>()
const { changeHere, troubles, forget } = useChangeHere()
const name = ref('')
const supernets = ref('')
const policies = ref<AlgorithmPolicy[]>([])
const policyId = ref('')
const horizon = ref(60)

async function save(): Promise<void> {
  const object = {
    name: name.value,
    supernets: supernets.value.split(/[\s,;]+/).filter(Boolean),
    policies: policies.value,
    policy_id: policyId.value,
    planning_horizon_days: horizon.value,
  }
  await changeHere([{ op: 'put-settings', object }], 'Edit the design’s own settings')
}
watch(
  () => props.design.revision,
  () => {
    name.value = props.design.name
    supernets.value = props.design.supernets.join(', ')
    policies.value = props.design.policies
    policyId.value = props.design.policy_id
    horizon.value = props.design.planning_horizon_days
    forget()
  },
  { immediate: true },
)
</script>

<template>
  <form class="settings" @submit.prevent="save">
    <label>
      Name of the design
      <ElInput v-model="name" maxlength="80" :aria-invalid="Boolean(troubles.name)" />
    </label>
    <p v-if="troubles.name" class="field-error" role="alert">{{ troubles.name }}</p>
    <label>
      Supernets: address space that the organisation may use inside; room for renumbering is sought in it
      <ElInput
        v-model="supernets"
        class="figures"
        placeholder="10.64.0.0/11, fd5c:9a1e:40::/48"
        :aria-invalid="Boolean(troubles.supernets)"
        spellcheck="false"
      />
    </label>
    <p v-if="troubles.supernets" class="field-error" role="alert">{{ troubles.supernets }}</p>
    <label>
      Planning horizon, days: what ends within it is told in time
      <ElInputNumber v-model="horizon" :min="0" :max="3650" :controls="false" />
    </label>
    <p v-if="troubles.planning_horizon_days" class="field-error" role="alert">
      {{ troubles.planning_horizon_days }}
    </p>
    <PolicyEditor v-model:policies="policies" v-model:in-force="policyId" />
    <p v-if="troubles.policies || troubles['']" class="field-error" role="alert">
      {{ troubles.policies ?? troubles[''] }}
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
