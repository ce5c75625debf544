<script setup lang="ts">
import Sortable from 'sortablejs'
import { computed, nextTick, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import type { Rule } from '@/api/types'
import { useOpenDesign } from '@/design/useDesignSession'
import { gridOf } from '@/grids/grids'
import RowForm from '@/grids/RowForm.vue'
import { NEW } from '@/grids/useRows'
import PictureButton from '@/ui/PictureButton.vue'
import SelectField from '@/ui/SelectField.vue'
import { useRuleOrder } from './useRuleOrder'
import { useSupposed } from './useSupposed'

/** The rules of a gateway in their order. A rule is moved by its handle or by keyboard, and what that changes is told before. */
const props = defineProps<{ gatewayId: string }>()
const emit = defineEmits<{ open: [gatewayId: string] }>()
const session = useOpenDesign()
const { design, analysis } = session
const { asked, set } = useSupposed()

const ruled = computed(() => {
  const ids = new Set((design.value?.rules ?? []).map((rule) => rule.gateway_id))
  return (design.value?.gateways ?? []).filter((gateway) => ids.has(gateway.id))
})
const gatewayId = computed(() => props.gatewayId || ruled.value[0]?.id || design.value?.gateways[0]?.id || '')
/** All gateways, those with rules first. */
const offered = computed(() => [...new Set([...ruled.value, ...(design.value?.gateways ?? [])])])
const grid = gridOf('rules')!
const ADDED = '+' // in place of an id: a rule that isn't there yet
const edited = computed(() => asked('edit').replace(ADDED, NEW))
const edit = (id: string | undefined) => set({ edit: id === NEW ? ADDED : id })
/** A new rule is asked after the others of its gateway. */
const preset = computed(() => ({
  gateway_id: design.value?.gateways.find((gateway) => gateway.id === gatewayId.value)?.name ?? '',
  position: String(Math.max(0, ...order.standing.value.map((rule) => rule.position)) + 10),
}))
const order = useRuleOrder(session, gatewayId)
const { shown, held, preview, trouble } = order
watch([held, order.place], () => set({ move: held.value ? `${held.value}:${order.place.value}` : undefined }))
onMounted(() => {
  const [id = '', to = ''] = asked('move').split(':')
  if (!order.standing.value.some((rule) => rule.id === id)) return
  order.hold(id)
  order.carry(Number(to) || 0)
})
const list = ref<HTMLElement>()
let sortable: Sortable | null = null

const names = computed(() => {
  const now = design.value
  const all = [
    ...(now?.tunnels ?? []),
    ...(now?.uplinks ?? []),
    ...(now?.networks ?? []),
    ...(now?.hosts ?? []),
  ]
  return new Map([...all, ...(now?.sites ?? [])].map((object) => [object.id, object.name]))
})
const nameOf = (id: string) => names.value.get(id) ?? id
function about(rule: Rule): string {
  const from = [...rule.sources, ...rule.source_members.map((member) => nameOf(member.id))]
  const to = [
    ...rule.destinations,
    ...rule.destination_members.map((member) => nameOf(member.id)),
    ...rule.destination_names,
    ...(rule.region ? [`region ${rule.region}`] : []),
  ]
  const classes = rule.dscp.length ? `, class ${rule.dscp.join(', ')}` : ''
  return `${from.join(', ') || 'anything'} → ${to.join(', ') || 'anywhere'}${classes}`
}
function does(rule: Rule): string {
  const paths = rule.paths.map((path) => nameOf(path.id)).join(', else ')
  const marks = rule.marks ? `mark ${rule.marks}; ` : ''
  if (!rule.paths.length) return `${marks}${rule.on_failure === 'hold' ? 'hold it' : 'go on'}`
  return `${marks}${paths}; else ${rule.on_failure === 'hold' ? 'hold it' : 'fall through'}`
}
const remarks = computed(() => {
  const found = new Map<string, string[]>()
  for (const finding of analysis.value?.findings ?? []) {
    const place = finding.where[0]
    if (place?.type === 'rule' && finding.screen === 'paths')
      found.set(place.id, [...(found.get(place.id) ?? []), finding.title])
  }
  return found
})

/** A library carries the row about; Vue draws it where it is held, which is the very same place. */
watch(
  list,
  (element) => {
    sortable?.destroy()
    sortable = element
      ? Sortable.create(element, {
          handle: '.handle',
          animation: 0,
          onStart: (event) => order.hold(event.item.dataset.id ?? ''),
          onChange: (event) => order.carry(event.newIndex ?? 0),
          onEnd: (event) => {
            order.carry(event.newIndex ?? 0)
          },
        })
      : null
  },
  { flush: 'post' },
)
onBeforeUnmount(() => sortable?.destroy())

async function keyed(event: KeyboardEvent, rule: Rule): Promise<void> {
  const step = { ArrowUp: -1, ArrowDown: 1 }[event.key]
  if (step && (event.altKey || held.value === rule.id)) {
    event.preventDefault()
    if (held.value !== rule.id) order.hold(rule.id)
    order.carry(order.place.value + step)
    await nextTick()
    list.value?.querySelector<HTMLElement>(`[data-id="${rule.id}"] .handle`)?.focus()
  } else if (event.key === 'Escape' && held.value) order.release()
  else if (event.key === 'Enter' && held.value) {
    event.preventDefault()
    await order.drop()
  }
}
</script>

<template>
  <section class="rules plain-fields" aria-label="Rules">
    <p v-if="!design?.gateways.length">There are no gateways yet; rules are theirs.</p>
    <template v-else>
      <div class="which">
        <SelectField
          label="Rules of"
          :model-value="gatewayId"
          :options="offered.map((gateway) => ({ value: gateway.id, label: gateway.name }))"
          @update:model-value="emit('open', $event)"
        />
        <ElButton @click="edit(NEW)">Add rule …</ElButton>
        <span v-if="shown.length" class="muted"
          >asked from the top; move one by its handle, or with Alt and an arrow key</span
        >
        <span v-else class="muted"
          >No rules: which traffic, and which tunnels or uplinks it takes in which order; all of them stand in
          the
          <RouterLink :to="{ name: 'paths', params: { panel: 'tables', objectId: 'rules' } }"
            >table</RouterLink
          >.</span
        >
      </div>
      <div class="columns">
        <ol ref="list" :key="gatewayId">
          <li v-for="rule in shown" :key="rule.id" :data-id="rule.id" :class="{ held: rule.id === held }">
            <PictureButton
              class="handle"
              :aria-label="`Move ${rule.name}`"
              :aria-pressed="rule.id === held"
              @keydown="keyed($event, rule)"
            >
              <svg viewBox="0 0 10 16" width="10" height="16" aria-hidden="true">
                <path
                  d="M2 5 L5 1.5 L8 5 M2 11 L5 14.5 L8 11"
                  fill="none"
                  stroke="currentColor"
                  stroke-width="1.4"
                />
              </svg>
            </PictureButton>
            <span class="figures muted position">{{ rule.position }}</span>
            <div class="what">
              <p class="name">
                {{ rule.name }}
                <span v-for="remark in remarks.get(rule.id)" :key="remark" class="remark">{{ remark }}</span>
              </p>
              <p class="about">{{ about(rule) }}</p>
              <p class="does muted">{{ does(rule) }}</p>
            </div>
            <ElButton link type="primary" :aria-label="`Edit ${rule.name}`" @click="edit(rule.id)"
              >Edit</ElButton
            >
          </li>
        </ol>
        <aside v-if="held" class="preview" aria-live="polite">
          <h3>What this move changes</h3>
          <p v-if="trouble" class="field-error" role="alert">{{ trouble }}</p>
          <p v-else-if="!preview" class="muted">Comparing …</p>
          <template v-else>
            <p v-if="!preview.changes.length">
              {{
                preview.operations.length
                  ? 'Nothing: no traffic is asked for by another rule first.'
                  : 'It stands where it stood.'
              }}
            </p>
            <dl>
              <template v-for="({ traffic, before, after, when }, k) in preview.changes" :key="k">
                <dt class="figures">{{ traffic }}</dt>
                <dd>
                  <del>{{ before }}</del> <span aria-label="becomes">→</span> <ins>{{ after }}</ins>
                  <span v-if="when" class="muted"> once {{ when }} falls through</span>
                </dd>
              </template>
            </dl>
            <div class="buttons">
              <ElButton type="primary" :disabled="!preview.operations.length" @click="order.drop">
                Put it here
              </ElButton>
              <ElButton @click="order.release">Cancel</ElButton>
            </div>
          </template>
        </aside>
      </div>
    </template>
    <RowForm
      v-if="design && asked('edit')"
      :id="edited"
      :key="edited"
      :grid="grid"
      :design="design"
      :preset="preset"
      @close="edit(undefined)"
    />
  </section>
</template>

<style scoped>
.rules {
  padding: 10px 16px;
}
.which {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
  padding-bottom: 8px;
}
.columns {
  display: flex;
  flex-wrap: wrap;
  gap: 16px;
  align-items: flex-start;
}
ol {
  flex: 2 1 380px;
  padding: 0;
  margin: 0;
  list-style: none;
}
li {
  display: flex;
  gap: 8px;
  align-items: center;
  padding: 6px 8px;
  margin-bottom: 4px;
  background: var(--card);
  border: 1px solid var(--line);
  border-radius: 3px;
}
li.held {
  background: var(--verdigris-wash);
  border-color: var(--verdigris);
}
.handle {
  padding: 4px 6px;
  color: var(--muted);
  cursor: grab;
}
.position {
  min-width: 24px;
  text-align: right;
}
.what {
  flex: 1;
  min-width: 0;
}
.name {
  font-weight: 600;
}
.remark {
  margin-left: 8px;
  font-size: 12px;
  font-weight: 400;
  color: var(--madder);
}
.about,
.does {
  font-size: 12px;
  overflow-wrap: anywhere;
}
.preview {
  position: sticky;
  top: 8px;
  flex: 1 1 260px;
  padding: 8px 12px;
  background: var(--card);
  border: 1px solid var(--verdigris);
  border-radius: 3px;
}
dl {
  max-height: 300px;
  margin: 6px 0;
  overflow: auto;
}
dd {
  margin: 0 0 6px;
}
del {
  color: var(--madder);
  text-decoration: none;
}
ins {
  font-weight: 500;
  color: var(--verdigris);
  text-decoration: none;
}
.buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
</style>
