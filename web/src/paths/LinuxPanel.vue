<script setup lang="ts">
import { useClipboard } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import type { LinuxPlan, Operation, Tunnel } from '@/api/types'
import { useChangeHere } from '@/design/useChangeHere'
import { useOpenDesign } from '@/design/useDesignSession'
import SelectField from '@/ui/SelectField.vue'
import { useLinuxPlan } from './usePaths'
import { useSupposed } from './useSupposed'

/** A gateway that is a Linux machine: what its interfaces are called, the commands, and the way back. */
const session = useOpenDesign()
const { design } = session
const { changeHere, refusedFields, forget } = useChangeHere()
const { asked, set } = useSupposed()
const machines = computed(() =>
  (design.value?.gateways ?? []).filter((gateway) => ['server', 'container-host'].includes(gateway.kind)),
)
const machineId = computed(() => {
  const wanted = asked('machine')
  return machines.value.some((machine) => machine.id === wanted) ? wanted : (machines.value[0]?.id ?? '')
})
const { data: plan } = useLinuxPlan(session, machineId)
const way = computed(() => (asked('way') === 'back' ? 'back' : 'apply'))
const commands = computed(() => plan.value?.[way.value].join('\n') ?? '')
const { copy, copied } = useClipboard()

type Named = LinuxPlan['interfaces'][number]
const key = (row: Named): string => `${row.type}/${row.id}`
const typed = ref(new Map<string, string>()) // names as they are being typed, until they are saved
const sent = ref<string[]>([]) // whose names were sent last, in the order of the operations
watch(machineId, () => {
  typed.value.clear()
  forget()
})
const nameOf = (row: Named): string => typed.value.get(key(row)) ?? row.interface ?? ''
const changedNames = computed(() =>
  (plan.value?.interfaces ?? []).filter((row) => nameOf(row).trim() !== (row.interface ?? '')),
)
const lacking = computed(() => (plan.value?.interfaces ?? []).filter((row) => row.needed && !row.interface))
const WORDS: Partial<Record<Named['type'], string>> = {
  tunnel: 'Tunnel',
  uplink: 'Uplink',
  network: 'Network',
}

function named(row: Named): Operation[] {
  const name = nameOf(row).trim() || null
  const now = design.value
  const tunnel = now?.tunnels.find((other) => row.type === 'tunnel' && other.id === row.id)
  const uplink = now?.uplinks.find((other) => row.type === 'uplink' && other.id === row.id)
  const network = now?.networks.find((other) => row.type === 'network' && other.id === row.id)
  if (tunnel) return [{ op: 'put-tunnel', object: withInterface(tunnel, name) }]
  if (uplink) return [{ op: 'put-uplink', object: { ...uplink, interface: name } }]
  return network ? [{ op: 'put-network', object: { ...network, interface: name } }] : []
}
function withInterface(tunnel: Tunnel, name: string | null): Tunnel {
  const side = tunnel.left.gateway_id === machineId.value ? 'left' : 'right'
  return { ...tunnel, [side]: { ...tunnel[side], interface: name } }
}
async function save(): Promise<void> {
  sent.value = changedNames.value.map(key)
  if (await changeHere(changedNames.value.flatMap(named), 'Name interfaces')) typed.value.clear()
}
const troubleAt = (row: Named): string =>
  refusedFields.value.find(({ operation }) => sent.value[operation] === key(row))?.reason ?? ''
</script>

<template>
  <div v-if="machines.length && plan" class="linux plain-fields">
    <h2>On a Linux machine</h2>
    <div class="head">
      <SelectField
        label="Gateway"
        :model-value="machineId"
        :options="machines.map((machine) => ({ value: machine.id, label: machine.name }))"
        @update:model-value="set({ machine: $event })"
      />
      <ElRadioGroup
        :model-value="way"
        aria-label="Which commands"
        @update:model-value="set({ way: $event === 'back' ? 'back' : undefined })"
      >
        <ElRadio value="apply">Commands</ElRadio>
        <ElRadio value="back">The way back</ElRadio>
      </ElRadioGroup>
      <span class="muted rest">run twice, it changes nothing the second time</span>
      <ElButton :disabled="!commands" @click="copy(commands)">
        {{ copied ? 'Copied' : 'Copy' }}
      </ElButton>
    </div>
    <form class="names" aria-label="Names of the interfaces" @submit.prevent="save">
      <label
        v-for="row in plan.interfaces"
        :key="key(row)"
        :class="{ lacking: row.needed && !row.interface }"
      >
        {{ WORDS[row.type] }} {{ row.name }}
        <ElInput
          :model-value="nameOf(row)"
          class="figures"
          :placeholder="row.needed ? 'needed' : 'not known'"
          :maxlength="15"
          :aria-invalid="troubleAt(row) !== ''"
          @update:model-value="(text: string) => typed.set(key(row), text)"
        />
        <span v-if="troubleAt(row)" class="field-error" role="alert">{{ troubleAt(row) }}</span>
      </label>
      <ElButton native-type="submit" :disabled="!changedNames.length">Save names</ElButton>
    </form>
    <p v-if="lacking.length">
      Commands need to know what
      {{ lacking.length === 1 ? 'this interface is' : `these ${lacking.length} interfaces are` }} called:
      {{ lacking.map((row) => row.name).join(', ') }}.
    </p>
    <pre v-else class="figures" tabindex="0" :aria-label="way === 'back' ? 'The way back' : 'Commands'">{{
      commands
    }}</pre>
    <p v-for="remark in plan.remarks" :key="remark" class="muted">Left to others: {{ remark }}.</p>
  </div>
</template>

<style scoped>
.linux {
  padding-top: 12px;
}
.head,
.names {
  display: flex;
  gap: 16px;
  align-items: center;
  padding-bottom: 8px;
}
.names {
  flex-wrap: wrap;
  gap: 8px 16px;
  align-items: start;
}
.names .el-button {
  margin-top: 22px; /* beside the fields, below their names */
}
.names label {
  display: flex;
  flex-direction: column;
  gap: 2px;
  align-items: stretch;
  width: 168px;
}
.names .lacking {
  font-weight: 600;
  color: var(--madder);
}
.rest {
  flex: 1;
}
pre {
  max-height: 320px;
  padding: 8px 12px;
  margin: 0 0 6px;
  overflow: auto;
  background: var(--card);
  border: 1px solid var(--line);
  border-radius: 3px;
}
</style>
