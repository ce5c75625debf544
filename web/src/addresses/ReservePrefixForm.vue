<script setup lang="ts">
import type { InputInstance } from 'element-plus'
import { computed, onMounted, ref, useTemplateRef, watch } from 'vue'
import { freshId } from '@/design/ids'
import { putOf } from '@/design/kinds'
import { useChangeHere } from '@/design/useChangeHere'
import { useOpenDesign } from '@/design/useDesignSession'
import SelectField from '@/ui/SelectField.vue'
import { versionOf } from './blocks'
import { useOffers } from './useSpace'

/** Holding a prefix for a site: drawn on the ruler, typed, or one of those that keep the site in one piece. */
const props = defineProps<{ prefix: string }>()
const emit = defineEmits<{ close: [] }>()
const session = useOpenDesign()
const { design } = session
const { changeHere, trouble } = useChangeHere()

const prefix = ref(props.prefix)
const siteId = ref('')
const name = ref('growth')
const field = useTemplateRef<InputInstance>('field')

const sites = computed(() =>
  (design.value?.sites ?? []).map((site) => ({ value: site.id, label: site.name })),
)
const length = computed(() => Number(/\/(\d{1,3})$/.exec(prefix.value.trim())?.[1] ?? 24))
const version = computed(() => versionOf(prefix.value))
const offers = useOffers(session, siteId, length, version)

async function reserve(): Promise<void> {
  const taken = new Set((design.value?.prefix_reservations ?? []).map((kept) => kept.id))
  const id = freshId(`${siteId.value} ${name.value}`, taken)
  const object = { id, site_id: siteId.value, name: name.value, prefix: prefix.value.trim(), remark: '' }
  const site = design.value?.sites.find((candidate) => candidate.id === siteId.value)?.name ?? ''
  const reserved = [putOf('prefix-reservation', object)]
  if (await changeHere(reserved, `Reserve ${object.prefix} for ${site}`)) emit('close')
}
watch(
  () => props.prefix,
  (drawn) => (prefix.value = drawn),
)
onMounted(() => field.value?.focus())
</script>

<template>
  <form class="reserve" aria-label="Reserve a prefix" @submit.prevent="reserve" @keydown.esc="emit('close')">
    <label
      >Reserve
      <ElInput
        ref="field"
        v-model="prefix"
        class="figures"
        placeholder="10.65.8.0/24"
        spellcheck="false"
        required
    /></label>
    <SelectField v-model="siteId" label="for" placeholder="choose a site" :options="sites" />
    <label>as <ElInput v-model="name" required maxlength="80" /></label>
    <ElButton type="primary" native-type="submit" :disabled="!prefix || !siteId || !name"> Reserve </ElButton>
    <ElButton @click="emit('close')">Cancel</ElButton>
    <p v-if="trouble" class="field-error" role="alert">{{ trouble }}</p>
    <p v-if="siteId && offers?.length" class="offers">
      <span class="muted">Free /{{ length }} that keeps the site in one piece:</span>
      <ElButton
        v-for="offer in offers"
        :key="offer.prefix"
        class="figures"
        :title="`The site would fit into ${offer.summary}${offer.foreign ? `, with ${offer.foreign} networks of others` : ''}`"
        @click="prefix = offer.prefix"
      >
        {{ offer.prefix }}
      </ElButton>
    </p>
    <p v-else-if="siteId && offers" class="muted offers">
      There is no free /{{ length }}
      {{
        design?.supernets.length ? 'inside the supernets' : 'in private space; no supernets are given yet'
      }}.
    </p>
  </form>
</template>

<style scoped>
.reserve {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 12px;
  align-items: center;
  padding: 8px 16px;
  background: var(--card);
  border-bottom: 1px solid var(--verdigris);
}
.el-input {
  --el-input-width: 150px;
}
p {
  width: 100%;
}
.offers {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
}
</style>
