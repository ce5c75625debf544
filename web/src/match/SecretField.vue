<script setup lang="ts">
/** A secret that is typed twice, or typed or pasted in sight with its blanks marked. */
import { computed, ref, watchEffect } from 'vue'
import { withMarks } from './useVault'

const props = defineProps<{ what: string }>()
const secret = defineModel<string>({ required: true }) // empty until both entries are the same
const typed = ref('')
const again = ref('')
const visible = ref(false)

const same = computed(() => visible.value || typed.value === again.value)
const differs = computed(() => Boolean(again.value) && !same.value)
watchEffect(() => {
  secret.value = same.value ? typed.value : ''
})
const label = computed(() => `New ${props.what}: type or paste it`)
</script>

<template>
  <div>
    <label>
      {{ label }}
      <textarea
        v-model="typed"
        class="figures"
        :class="{ hidden: !visible }"
        rows="2"
        spellcheck="false"
        autocomplete="off"
      />
    </label>
    <p v-if="visible && typed" class="figures marks">{{ withMarks(typed) }}</p>
    <label v-if="!visible">
      Once more
      <textarea v-model="again" class="figures hidden" rows="1" spellcheck="false" autocomplete="off" />
    </label>
    <p v-if="differs" class="field-error" role="alert">The two entries differ.</p>
    <label class="check"><input v-model="visible" type="checkbox" /> Show what I type, blanks as ␣</label>
  </div>
</template>

<style scoped>
textarea {
  display: block;
  width: 100%;
  padding: 3px 6px;
  background: var(--card);
  border: 1px solid var(--line);
  border-radius: 3px;
}
textarea.hidden {
  -webkit-text-security: disc;
}
.check {
  display: flex;
  gap: 6px;
  align-items: center;
  margin: 4px 0;
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
