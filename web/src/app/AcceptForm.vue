<script setup lang="ts">
import { onMounted, ref, useTemplateRef } from 'vue'
import type { Finding, Operation } from '@/api/types'
import { freshId } from '@/design/ids'
import { putOf } from '@/design/kinds'
import { useChangeHere } from '@/design/useChangeHere'
import { useOpenDesign } from '@/design/useDesignSession'

/** Living with findings until a day, with a reason that stands in the design. */
const props = defineProps<{ findings: readonly Finding[] }>()
const emit = defineEmits<{ close: [] }>()
const { design } = useOpenDesign()
const { changeHere, troubles } = useChangeHere()

const USUAL_DAYS = 90
const DAY_MS = 86_400_000
const reason = ref('')
const until = ref(new Date(Date.now() + USUAL_DAYS * DAY_MS).toISOString().slice(0, 10))
const by = ref('')

const form = useTemplateRef<HTMLFormElement>('form')
onMounted(() => form.value?.scrollIntoView?.({ block: 'nearest' }))

function operations(): Operation[] {
  const kept = design.value?.acceptances ?? []
  const ids = new Set(kept.map((row) => row.id))
  const names = new Set(kept.map((row) => row.name))
  return props.findings.map(({ code, title, accepted, where: [place] }) => {
    const id = accepted?.id ?? freshId(`${code} ${place?.id}`, ids)
    ids.add(id)
    const stem = `${title}: ${place?.name}`.slice(0, 70)
    let name = kept.find((row) => row.id === id)?.name ?? stem
    for (let number = 2; !accepted && names.has(name); number += 1) name = `${stem} ${number}`
    names.add(name)
    const at = { at_type: place!.type, at_id: place!.id, at_field: place!.field }
    const object = { id, name, code, ...at, reason: reason.value, until: until.value, accepted_by: by.value }
    return putOf('acceptance', object)
  })
}
async function accept(): Promise<void> {
  const what = props.findings[0]?.title ?? ''
  const count = props.findings.length > 1 ? `${props.findings.length} × ` : ''
  if (await changeHere(operations(), `Accept ${count}${what} until ${until.value}`)) emit('close')
}
</script>

<template>
  <form ref="form" aria-label="Accept" @submit.prevent="accept" @keydown.esc="emit('close')">
    <label>
      Reason
      <ElInput v-model="reason" maxlength="200" autofocus />
    </label>
    <p v-if="troubles.reason" class="field-error" role="alert">{{ troubles.reason }}</p>
    <div class="line">
      <span>
        <span aria-hidden="true">Until</span>
        <ElDatePicker
          v-model="until"
          type="date"
          value-format="YYYY-MM-DD"
          aria-label="Until"
          :clearable="false"
        />
      </span>
      <label>
        Accepted by
        <ElInput v-model="by" maxlength="80" />
      </label>
    </div>
    <p v-if="troubles.until || troubles.accepted_by" class="field-error" role="alert">
      {{ troubles.until ?? troubles.accepted_by }}
    </p>
    <div class="buttons">
      <ElButton type="primary" native-type="submit" :disabled="!reason.trim() || !until">
        {{ findings.length > 1 ? `Accept all ${findings.length}` : 'Accept' }}
      </ElButton>
      <ElButton @click="emit('close')">Cancel</ElButton>
    </div>
  </form>
</template>

<style scoped>
form {
  margin-top: 8px;
  font-size: 12px;
}
.line {
  display: flex;
  gap: 8px;
  margin-top: 4px;
  --el-date-editor-width: 122px;
}
.buttons {
  display: flex;
  gap: 6px;
  margin-top: 8px;
}
</style>
