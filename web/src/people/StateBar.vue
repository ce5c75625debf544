<script setup lang="ts">
import { computed } from 'vue'
import type { DeviceState, RolloutShown } from '@/api/types'
import PictureButton from '@/ui/PictureButton.vue'
import { DEVICE_STATE_WORDS } from './usePeople'

/** How many devices are in each state, as parts of one bar: a part that is pressed shows its devices alone. */
const props = defineProps<{ states: RolloutShown['states'] }>()
const emit = defineEmits<{ chosen: [state: DeviceState] }>()
const shown = computed(() => props.states.filter((state) => state.count))
</script>

<template>
  <div v-if="shown.length" class="bar" role="group" aria-label="Devices by state">
    <PictureButton
      v-for="part in shown"
      :key="part.state"
      class="part"
      :class="part.state"
      :style="{ flexGrow: part.count }"
      :aria-label="`${part.count} ${DEVICE_STATE_WORDS[part.state]}`"
      @click="emit('chosen', part.state)"
      ><strong class="figures">{{ part.count }}</strong> {{ DEVICE_STATE_WORDS[part.state] }}</PictureButton
    >
  </div>
</template>

<style scoped>
.bar {
  display: flex;
  gap: 2px;
  margin: 6px 0;
}
.part {
  flex: 1 0 auto;
  padding: 5px 8px;
  text-align: left;
  background: var(--card);
  border: 1px solid var(--line);
  border-bottom-width: 4px;
  border-radius: 2px;
}
.part.active {
  border-bottom-color: var(--verdigris);
}
.part.refused {
  border-bottom-color: var(--madder);
}
.part.outdated {
  border-bottom-color: var(--ochre);
}
.part.fetched,
.part.offered {
  border-bottom-color: var(--slate);
}
</style>
