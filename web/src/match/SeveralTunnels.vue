<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'
import described from '@/api/kinds.json'
import type { EndFieldDescription, Side, Tunnel } from '@/api/types'
import { putOf } from '@/design/kinds'
import { useChangeHere } from '@/design/useChangeHere'
import { useOpenDesign } from '@/design/useDesignSession'
import DataTable, { type TableColumn } from '@/ui/DataTable.vue'
import SelectField from '@/ui/SelectField.vue'
import FieldEditor from './FieldEditor.vue'
import type { EndField } from './fields'
import type { ListedTunnel } from './filter'

/** One field of many ends, given one value as one change. */
const props = defineProps<{ tunnels: readonly ListedTunnel[] }>()
const open = defineModel<boolean>({ required: true })
const { design } = useOpenDesign()
const { changeHere, trouble, forget } = useChangeHere()

/** Keys, accounts and certificates belong to one end each. */
const OF_ONE_END = new Set(['key', 'key-pair', 'account', 'certificates', 'uplink'])
const FIELDS = (described.end_fields as EndFieldDescription[]).filter(
  (candidate) => !OF_ONE_END.has(candidate.editor),
)
const MOST_LISTED = 200
const COLUMNS: TableColumn[] = [
  { name: 'chosen', title: 'Chosen', width: 70 },
  { name: 'tunnel', title: 'Tunnel', minWidth: 140 },
  { name: 'end', title: 'End', minWidth: 140 },
  { name: 'now', title: 'Now', minWidth: 180, figures: true },
]

interface End {
  key: string
  tunnel: string
  end: string
  side: Side
  of: Tunnel
  now: string
}
const field = ref<string>(
  FIELDS.find((candidate) => candidate.field === 'child_lifetime_s')?.field ?? FIELDS[0]!.field,
)
const chosen = reactive(new Set<string>())
const done = ref('')

const siteNames = computed(() => {
  const sites = new Map((design.value?.sites ?? []).map((site) => [site.id, site.name]))
  return new Map(
    (design.value?.gateways ?? []).map((gateway) => [gateway.id, sites.get(gateway.site_id) ?? gateway.name]),
  )
})
const written = (value: unknown) =>
  value === null || value === undefined ? 'not set' : JSON.stringify(value)
const ends = computed<End[]>(() =>
  props.tunnels.flatMap(({ tunnel }) =>
    (['left', 'right'] as const).map((side) => ({
      key: `${tunnel.id}/${side}`,
      tunnel: tunnel.name,
      end: siteNames.value.get(tunnel[side].gateway_id) ?? '',
      side,
      of: tunnel,
      now: written(tunnel[side][field.value as EndField]).replace(/^"|"$/g, ''),
    })),
  ),
)
const first = computed(() => ends.value.find((end) => chosen.has(end.key)))
const title = computed(() => FIELDS.find((candidate) => candidate.field === field.value)?.title ?? '')

function chooseAll(all: boolean): void {
  chosen.clear()
  if (all) for (const end of ends.value) chosen.add(end.key)
}
function toggle(key: string, on: boolean): void {
  if (on) chosen.add(key)
  else chosen.delete(key)
}
async function save(value: unknown): Promise<void> {
  const changed = new Map<string, Tunnel>()
  for (const { key, side, of } of ends.value) {
    if (!chosen.has(key)) continue
    const now = changed.get(of.id) ?? of
    changed.set(of.id, { ...now, [side]: { ...now[side], [field.value]: value } })
  }
  const operations = [...changed.values()].map((object) => putOf('tunnel', object))
  done.value = ''
  const count = chosen.size
  if (await changeHere(operations, `${title.value} at ${count} ends`))
    done.value = `Set at ${count === 1 ? '1 end' : `${count} ends`}; Undo takes all of it back.`
}
watch(field, () => {
  done.value = ''
  forget()
})
</script>

<template>
  <ElDrawer v-model="open" title="Edit several tunnels" size="640" append-to-body>
    <div class="several">
      <SelectField
        v-model="field"
        label="Field"
        :options="FIELDS.map((choice) => ({ value: choice.field, label: choice.title }))"
      />
      <p class="muted">
        {{ chosen.size }} of {{ ends.length }} ends are chosen; the list is what the filter of the tunnels
        leaves.
        <ElButton link type="primary" @click="chooseAll(true)">Choose all</ElButton>
        <ElButton link type="primary" @click="chooseAll(false)">Choose none</ElButton>
      </p>
      <FieldEditor
        v-if="design && first"
        :key="`${field} ${first.key}`"
        :design="design"
        :tunnel="first.of"
        :side="first.side"
        :field="field"
        :label="`${title} at all chosen ends`"
        :error="trouble"
        :mirrored="false"
        :start="null"
        :save="save"
        @close="open = false"
      />
      <p v-else class="muted">Choose the ends that are to have the same value.</p>
      <p v-if="done" role="status">{{ done }}</p>
      <DataTable :rows="ends.slice(0, MOST_LISTED)" :columns="COLUMNS" label="Ends">
        <template #chosen="{ row }">
          <ElCheckbox
            :model-value="chosen.has(row.key)"
            :aria-label="`${row.tunnel}, ${row.end}`"
            @update:model-value="toggle(row.key, Boolean($event))"
          />
        </template>
      </DataTable>
      <p v-if="ends.length > MOST_LISTED" class="muted">
        {{ ends.length - MOST_LISTED }} more ends are not listed; “Choose all” takes them as well.
      </p>
    </div>
  </ElDrawer>
</template>

<style scoped>
.several {
  display: flex;
  flex-direction: column;
  gap: 8px;
}
</style>
