<script setup lang="ts">
import { computed, toRef } from 'vue'
import { Refusal } from '@/api/client'
import { provideDesignSession } from '@/design/useDesignSession'
import RefusalNotice from './RefusalNotice.vue'
import TopBar from './TopBar.vue'
import WorkNav from './WorkNav.vue'
import WorkList from './WorkList.vue'
import { useUndoKeys } from './useUndoKeys'

const props = defineProps<{ designId: string }>()
const session = provideDesignSession(toRef(props, 'designId'))
useUndoKeys(session)
const { design, loadError } = session
const loadProblem = computed(() => (loadError.value instanceof Refusal ? loadError.value.problem : null))
</script>

<template>
  <div class="frame">
    <TopBar class="top" />
    <WorkNav class="nav" />
    <main class="middle">
      <RefusalNotice />
      <div v-if="loadProblem && loadProblem.status !== 404" class="stale" role="status">
        {{ loadProblem.title }}. {{ loadProblem.detail }}
      </div>
      <p v-if="loadProblem?.status === 404" class="gone">
        {{ loadProblem.detail }} <RouterLink to="/">See all designs.</RouterLink>
      </p>
      <RouterView v-else-if="design" />
      <p v-else class="gone muted">Loading the design …</p>
    </main>
    <WorkList class="side" />
  </div>
</template>

<style scoped>
.frame {
  display: grid;
  grid-template: 44px minmax(0, 1fr) / 128px minmax(0, 1fr) 280px;
  grid-template-areas: 'top top top' 'nav middle side';
  height: 100%;
}
.top {
  grid-area: top;
}
.nav {
  grid-area: nav;
}
.middle {
  grid-area: middle;
  display: flex;
  flex-direction: column;
  overflow: auto;
  min-width: 0;
}
.side {
  grid-area: side;
}
.stale {
  padding: 6px 16px;
  background: var(--ochre-wash);
  border-bottom: 1px solid var(--ochre);
}
.gone {
  padding: 32px;
}
@media (max-width: 1020px) {
  .frame {
    grid-template: auto auto minmax(0, 1fr) 36% / minmax(0, 1fr);
    grid-template-areas: 'top' 'nav' 'middle' 'side';
  }
}
@media print {
  .frame {
    display: block;
  }
  .nav,
  .side,
  .top {
    display: none;
  }
}
</style>
