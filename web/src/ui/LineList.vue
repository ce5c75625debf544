<script setup lang="ts" generic="Line">
import { computed, useTemplateRef } from 'vue'
import { useVisibleRows } from './useVisibleRows'

/** Lines of a text with what each becomes; of thousands only those in sight are drawn. */
const ROW_PX = 41 // of a line without detail

const props = defineProps<{ lines: readonly Line[]; label: string; classOf: (line: Line) => string }>()
defineSlots<{ default: (props: { line: Line }) => unknown }>()
const scroller = useTemplateRef<HTMLElement>('scroller')
const { rows, drawn, totalPx } = useVisibleRows({
  items: computed(() => props.lines),
  scroller,
  heightPx: () => ROW_PX,
  beyond: 8,
})
</script>

<template>
  <div ref="scroller" class="preview printed-whole" tabindex="0" role="group" :aria-label="label">
    <div class="tall" :style="{ height: `${totalPx}px` }">
      <div
        v-for="{ item: line, at, top } in drawn"
        :key="at"
        :ref="(row) => rows.measureElement(row as Element | null)"
        class="line"
        :class="classOf(line)"
        :data-index="at"
        :style="{ transform: `translateY(${top}px)` }"
      >
        <slot :line="line" />
      </div>
    </div>
  </div>
</template>

<style scoped>
.preview {
  position: relative;
  flex: 1;
  min-height: 110px;
  overflow: auto;
  border-top: 1px solid var(--line);
}
.tall {
  position: relative;
}
.line {
  position: absolute;
  display: grid;
  grid-template-columns: 30px minmax(0, 1fr) auto;
  column-gap: 8px;
  width: 100%;
  min-height: 40px;
  padding: 2px 0;
  border-bottom: 1px solid var(--line);
}
</style>
