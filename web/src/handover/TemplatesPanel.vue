<script setup lang="ts">
import { useSessionStorage } from '@vueuse/core'
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, bodyOf } from '@/api/client'
import type { Operation } from '@/api/types'
import { freshId } from '@/design/ids'
import { useAnswer } from '@/design/useAnswer'
import { useChangeHere } from '@/design/useChangeHere'
import { useOpenDesign } from '@/design/useDesignSession'
import SelectField from '@/ui/SelectField.vue'
import LinuxFiles from './LinuxFiles.vue'

/** Texts for the devices that stand at the sites, written by whoever knows them; and a gateway by published models. */
const props = defineProps<{ templateId: string }>()
const emit = defineEmits<{ open: [templateId: string] }>()
const { design, designId, revision } = useOpenDesign()
const { changeHere, trouble } = useChangeHere()
const route = useRoute()
const router = useRouter()

const FIRST = `{# what stands here is filled in from the design #}
{{ gateway.name }}, {{ site.name }}
{% for tunnel in tunnels %}
  {{ tunnel.name }}: peer {{ tunnel.this.peer_address }}, {{ tunnel.this.role }}
{% endfor %}
`
const templates = computed(() => design.value?.templates ?? [])
const template = computed(() => templates.value.find((candidate) => candidate.id === props.templateId))
const gateways = computed(() =>
  (design.value?.gateways ?? []).map((gateway) => ({ value: gateway.id, label: gateway.name })),
)
const gatewayId = computed(() => String(route.query.gateway ?? gateways.value[0]?.value ?? ''))

/** What was typed and isn't saved stays in the tab, over a reload, too. */
const typed = useSessionStorage<{ name?: string; text?: string }>(
  `pontifex-typed-${designId.value}-template-${props.templateId}`,
  {},
  { writeDefaults: false },
)
const name = computed({
  get: () => typed.value.name ?? template.value?.name ?? '',
  set: (value) => (typed.value = { ...typed.value, name: value }),
})
const text = computed({
  get: () => typed.value.text ?? template.value?.text ?? FIRST,
  set: (value) => (typed.value = { ...typed.value, text: value }),
})
const isChanged = computed(
  () => text.value !== template.value?.text || name.value.trim() !== template.value.name,
)
const { answer } = useAnswer(
  'rendering',
  () => (gatewayId.value ? { revision: revision.value, gateway: gatewayId.value, text: text.value } : null),
  ({ gateway, text: tried }, signal) =>
    bodyOf(
      api.POST('/api/designs/{design_id}/gateways/{gateway_id}/rendering', {
        params: { path: { design_id: designId.value, gateway_id: gateway } },
        body: { text: tried },
        signal,
      }),
    ),
)
const model = (form: string): string =>
  `/api/designs/${designId.value}/gateways/${gatewayId.value}/models/${form}`

async function save(): Promise<void> {
  const called = name.value.trim()
  const taken = new Set(templates.value.map((known) => known.id))
  const id = template.value?.id ?? freshId(called, taken)
  const object = { id, name: called, text: text.value, remark: template.value?.remark ?? '' }
  const operations: Operation[] = [{ op: 'put-template', object }]
  if (!(await changeHere(operations, `Template ${called}`))) return
  typed.value = {}
  emit('open', id)
}
async function remove(): Promise<void> {
  const gone = template.value
  if (!gone) return
  const operations: Operation[] = [{ op: 'remove', type: 'template', id: gone.id, cascade: false }]
  if (await changeHere(operations, `Remove template ${gone.name}`)) emit('open', '')
}
</script>

<template>
  <section class="templates plain-fields" aria-label="Templates">
    <header>
      <SelectField
        label="Gateway"
        :model-value="gatewayId"
        :options="gateways"
        @update:model-value="router.replace({ query: { ...route.query, gateway: $event } })"
      />
      <span class="muted">by published models:</span>
      <ElButton tag="a" :href="model('rfc9061')" :download="`${gatewayId}-rfc9061.json`"
        >IPsec (RFC 9061)</ElButton
      >
      <ElButton tag="a" :href="model('ietf-routing')" :download="`${gatewayId}-ietf-routing.json`"
        >Interfaces and routes</ElButton
      >
      <LinuxFiles v-if="gatewayId" :gateway-id="gatewayId" />
    </header>
    <div class="columns">
      <nav aria-label="Templates of this design">
        <ElButton link :disabled="!templateId" @click="emit('open', '')">New template</ElButton>
        <ElButton
          v-for="known in templates"
          :key="known.id"
          link
          :class="{ here: known.id === templateId }"
          @click="emit('open', known.id)"
          >{{ known.name }}</ElButton
        >
      </nav>
      <form aria-label="Template" @submit.prevent="save">
        <ElInput
          v-model="name"
          maxlength="80"
          placeholder="Name of the template"
          aria-label="Name"
          :aria-invalid="trouble !== ''"
        />
        <p v-if="trouble" class="field-error" role="alert">{{ trouble }}</p>
        <ElInput
          v-model="text"
          type="textarea"
          class="figures"
          :rows="16"
          spellcheck="false"
          aria-label="Text of the template"
        />
        <div class="buttons">
          <ElButton type="primary" native-type="submit" :disabled="!isChanged || !name.trim()">Save</ElButton>
          <ElButton v-if="template" @click="remove">Remove</ElButton>
        </div>
      </form>
      <div class="preview">
        <p v-if="answer?.refused" class="field-error" role="alert">
          {{ answer.line ? `Line ${answer.line}: ` : '' }}{{ answer.refused }}
        </p>
        <pre v-else class="figures text-box" tabindex="0" aria-label="What it becomes">{{
          answer?.text
        }}</pre>
      </div>
    </div>
    <template v-if="answer">
      <h3>What a template may ask for</h3>
      <dl>
        <template v-for="variable in answer.variables" :key="variable.name">
          <dt class="figures">{{ variable.name }}</dt>
          <dd>{{ variable.meaning }}</dd>
        </template>
      </dl>
    </template>
  </section>
</template>

<style scoped>
.templates {
  padding: 10px 16px 16px;
}
header {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 12px;
  align-items: center;
}
.columns {
  display: grid;
  grid-template-columns: 130px minmax(0, 1fr) minmax(0, 1fr);
  gap: 12px;
  margin-top: 10px;
}
nav {
  display: flex;
  flex-direction: column;
  gap: 4px;
  align-items: flex-start;
}
nav .el-button {
  margin: 0;
}
.here {
  font-weight: 600;
}
form {
  display: grid;
  gap: 6px;
  align-content: start;
}
.buttons {
  display: flex;
  gap: 6px;
}
pre {
  min-height: 120px;
  max-height: 400px;
}
h3 {
  margin: 12px 0 2px;
  font-size: 13px;
}
dl {
  display: grid;
  grid-template-columns: 110px minmax(0, 1fr);
  gap: 2px 10px;
  margin: 0;
}
dd {
  margin: 0;
}
@media (max-width: 1020px) {
  .columns {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
