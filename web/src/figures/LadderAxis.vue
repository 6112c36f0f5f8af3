<script setup lang="ts">
import { text } from '@/shared/text'
import type { LadderScale } from './logScale'

defineProps<{ axis: LadderScale; width: number }>()

/** Beside a narrower axis the words would stand over what comes next. */
const ROOM_FOR_WORDS = 330
</script>

<template>
  <svg :width="width" height="40" :viewBox="`0 0 ${width} 40`" aria-hidden="true">
    <text :x="axis.scale(1) - 10" y="12" text-anchor="end" class="direction lowers">
      ← {{ width < ROOM_FOR_WORDS ? text.catalogue.lowersShort : text.catalogue.lowers }}
    </text>
    <text :x="axis.scale(1) + 10" y="12" class="direction raises">
      {{ width < ROOM_FOR_WORDS ? text.catalogue.raisesShort : text.catalogue.raises }} →
    </text>
    <text
      v-for="tick in axis.ticks"
      :key="tick"
      :x="axis.scale(tick)"
      y="33"
      text-anchor="middle"
      :class="['tick', { one: tick === 1 }]"
    >
      {{ tick }}
    </text>
  </svg>
</template>

<style scoped>
svg {
  display: block;
  overflow: visible;
}
.direction {
  font-size: 11.5px;
}
.raises {
  fill: var(--raises);
}
.lowers {
  fill: var(--lowers);
}
.tick {
  font-size: 11.5px;
  fill: var(--muted);
}
.one {
  font-weight: 700;
  fill: rgb(var(--v-theme-on-background));
}
</style>
