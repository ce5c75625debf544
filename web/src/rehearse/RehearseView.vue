<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { useOpenDesign } from '@/design/useDesignSession'
import TunnelList from '@/match/TunnelList.vue'
import EveryTunnel from './EveryTunnel.vue'
import OneTunnel from './OneTunnel.vue'

const route = useRoute()
const { design } = useOpenDesign()
const tunnelId = computed(() => String(route.params.tunnelId ?? ''))
const tunnel = computed(() => design.value?.tunnels.find((candidate) => candidate.id === tunnelId.value))
</script>

<template>
  <div class="rehearse">
    <TunnelList view="rehearse">
      <RouterLink class="every" :to="{ name: 'rehearse', params: { designId: design?.id, tunnelId: '' } }">
        All tunnels
      </RouterLink>
    </TunnelList>
    <OneTunnel v-if="design && tunnel" :key="tunnel.id" :tunnel="tunnel" />
    <p v-else-if="design && tunnelId" class="empty">
      There is no tunnel of this name in the design any more.
    </p>
    <EveryTunnel v-else-if="design" :design="design" />
  </div>
</template>

<style scoped>
.rehearse {
  display: grid;
  flex: 1;
  grid-template-columns: 184px minmax(0, 1fr);
  min-height: 0;
}
.every {
  padding: 6px 8px;
  color: var(--ink);
}
.empty {
  padding: 32px;
}
@media (max-width: 1020px) {
  .rehearse {
    grid-template-columns: minmax(0, 1fr);
  }
}
@media print {
  .rehearse {
    display: block;
  }
}
</style>
