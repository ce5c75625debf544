<script setup lang="ts">
import { useLocalStorage, useTitle } from '@vueuse/core'
import { computed, toRef } from 'vue'
import { useRoute } from 'vue-router'
import { Refusal } from '@/api/client'
import { provideDesignSession } from '@/design/useDesignSession'
import RefusalNotice from './RefusalNotice.vue'
import TopBar from './TopBar.vue'
import WorkNav from './WorkNav.vue'
import WorkList from './WorkList.vue'
import PrintHead from './PrintHead.vue'
import { isAccepted } from './grouping'
import { titleOf } from './places'
import { useUndoKeys } from './useUndoKeys'

const props = defineProps<{ designId: string }>()
const session = provideDesignSession(toRef(props, 'designId'))
useUndoKeys(session)
const { design, analysis, loadError } = session
const navFolded = useLocalStorage('pontifex-nav-folded', false)
const listFolded = useLocalStorage('pontifex-list-folded', false)
const openCount = computed(
  () => (analysis.value?.findings ?? []).filter((finding) => !isAccepted(finding)).length,
)
/** The tab of the browser names the design and the view. */
const route = useRoute()
useTitle(computed(() => [design.value?.name ?? props.designId, titleOf(route)].join(' · ')))
function skip(): void {
  document.getElementById('work')?.focus()
}
const loadProblem = computed(() => (loadError.value instanceof Refusal ? loadError.value.problem : null))
</script>

<template>
  <div class="frame" :class="{ 'nav-folded': navFolded, 'list-folded': listFolded }">
    <a class="skip" href="#work" @click.prevent="skip">To the view</a>
    <TopBar class="top" />
    <WorkNav class="nav" :folded="navFolded" @fold="navFolded = !navFolded" />
    <main id="work" class="middle" tabindex="-1">
      <PrintHead v-if="design" :design="design" />
      <RefusalNotice />
      <div v-if="loadProblem && loadProblem.status !== 404" class="stale" role="status">
        {{ loadProblem.title }}. {{ loadProblem.detail }}
      </div>
      <p v-if="loadProblem?.status === 404" class="gone">
        {{ loadProblem.detail }} <RouterLink to="/">See all designs.</RouterLink>
      </p>
      <RouterView v-else-if="design" :key="designId" />
      <p v-else class="gone muted">Loading the design …</p>
    </main>
    <WorkList v-if="!listFolded" class="side" @fold="listFolded = true" />
    <div v-else class="side folded">
      <ElButton link aria-label="Unfold the worklist" title="Unfold the worklist" @click="listFolded = false"
        >«<span class="figures">{{ openCount }}</span></ElButton
      >
    </div>
  </div>
</template>

<style scoped>
.frame {
  display: grid;
  grid-template: 44px minmax(0, 1fr) / 128px minmax(0, 1fr) 280px;
  grid-template-areas: 'top top top' 'nav middle side';
  height: 100%;
}
.frame.nav-folded {
  grid-template-columns: 44px minmax(0, 1fr) 280px;
}
.frame.list-folded {
  grid-template-columns: 128px minmax(0, 1fr) 36px;
}
.frame.nav-folded.list-folded {
  grid-template-columns: 44px minmax(0, 1fr) 36px;
}
.folded {
  padding: 12px 6px;
  border-left: 1px solid var(--line);
}
.middle:focus {
  outline: none;
}
.skip {
  position: absolute;
  top: -40px;
  z-index: 20;
  padding: 6px 12px;
  background: var(--card);
}
.skip:focus {
  top: 4px;
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
/* narrow, or enlarged: one column that is scrolled as a whole, with nothing cut */
@media (max-width: 1020px) {
  .frame,
  .frame.nav-folded,
  .frame.list-folded {
    grid-template: auto / minmax(0, 1fr);
    grid-template-areas: 'top' 'nav' 'middle' 'side';
    height: auto;
  }
  .middle {
    min-height: 480px;
    overflow: visible;
  }
  .side {
    border-top: 1px solid var(--line);
    border-left: 0;
  }
}
@media print {
  .frame {
    display: block;
  }
  .nav,
  .side,
  .skip,
  .top {
    display: none;
  }
}
</style>
