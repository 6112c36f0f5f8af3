<script setup lang="ts">
import { computed } from 'vue'

import type { CalibrationBin } from '@/shared/api/types'
import { percent, percentInterval } from '@/shared/format'
import { text } from '@/shared/text'

/** Probabilities by fifths: a bar from the mean that was given to the share that came true, over the interval of that share. */
const props = defineProps<{ bins: CalibrationBin[] }>()

const words = text.examination.own
const at = (share: number) => `${100 * share}%`
const rows = computed(() =>
  props.bins.map((bin, nth) => ({
    bin,
    title: words.fifth(20 * nth, 20 * nth + 20),
    said:
      bin.mean != null && bin.observed
        ? words.bin(percent(bin.mean), bin.events, bin.n, percentInterval(bin.observed))
        : words.noBin,
  })),
)
</script>

<template>
  <ul class="figure" data-test="calibration">
    <li v-for="{ bin, title, said } in rows" :key="title">
      <span class="small title">{{ title }}</span>
      <span class="track" aria-hidden="true">
        <template v-if="bin.observed && bin.mean != null">
          <span
            class="interval"
            :style="{
              left: at(bin.observed.lower),
              width: at(bin.observed.upper - bin.observed.lower),
            }"
          />
          <span class="observed" :style="{ left: at(bin.observed.estimate) }" />
          <span class="mean" :style="{ left: at(bin.mean) }" />
        </template>
      </span>
      <span class="small said">{{ said }}</span>
    </li>
  </ul>
</template>

<style scoped>
.figure {
  display: grid;
  gap: 6px;
  margin: 8px 0;
  padding: 0;
  list-style: none;
}
li {
  display: grid;
  grid-template-columns: 8ch minmax(120px, 1fr) minmax(0, 1.3fr);
  gap: 12px;
  align-items: center;
}
.track {
  position: relative;
  height: 18px;
  border-bottom: 1px solid var(--line);
}
.interval {
  position: absolute;
  bottom: 5px;
  height: 8px;
  background: rgb(var(--v-theme-primary), 0.25);
}
.observed {
  position: absolute;
  bottom: 2px;
  width: 3px;
  height: 14px;
  margin-left: -1px;
  background: rgb(var(--v-theme-primary));
}
.mean {
  position: absolute;
  bottom: 3px;
  width: 11px;
  height: 11px;
  margin-left: -6px;
  border: 2px solid rgb(var(--v-theme-on-surface));
  border-radius: 2px;
  transform: rotate(45deg);
}
@media (max-width: 600px) {
  li {
    grid-template-columns: 8ch minmax(0, 1fr);
  }
  .said {
    grid-column: 1 / -1;
  }
}
</style>
