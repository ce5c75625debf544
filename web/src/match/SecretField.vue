<script setup lang="ts">
/** A secret that is typed twice, or typed or pasted in sight with its blanks marked. */
import { computed, ref, watch, watchEffect } from 'vue'
import { withMarks } from './useVault'

const props = defineProps<{ what: string }>()
const emit = defineEmits<{ typed: [] }>() // something stands here that would be lost
const secret = defineModel<string>({ required: true }) // empty until both entries are the same
const typed = ref('')
const again = ref('')
const visible = ref(false)

const same = computed(() => visible.value || typed.value === again.value)
const differs = computed(() => Boolean(again.value) && !same.value)
watch([typed, again], () => emit('typed'))
watchEffect(() => {
  secret.value = same.value ? typed.value : ''
})
const label = computed(() => `New ${props.what}: type or paste it`)
</script>

<template>
  <div>
    <label>
      {{ label }}
      <ElInput
        v-model="typed"
        type="textarea"
        class="figures"
        :class="{ hidden: !visible }"
        :rows="2"
        spellcheck="false"
        autocomplete="off"
      />
    </label>
    <p v-if="visible && typed" class="figures marks">{{ withMarks(typed) }}</p>
    <label v-if="!visible">
      Once more
      <ElInput
        v-model="again"
        type="textarea"
        class="figures hidden"
        :rows="1"
        spellcheck="false"
        autocomplete="off"
      />
    </label>
    <p v-if="differs" class="field-error" role="alert">The two entries differ.</p>
    <ElCheckbox v-model="visible">Show what I type, blanks as ␣</ElCheckbox>
  </div>
</template>

<style scoped>
.hidden :deep(textarea) {
  -webkit-text-security: disc;
}
.marks {
  margin: 4px 0;
  padding: 4px 6px;
  overflow-wrap: anywhere;
  white-space: pre-wrap;
  background: var(--ochre-wash);
  border-radius: 3px;
}
</style>
