<script setup lang="ts">
/** The percentages above a column of a paired forest, on the axis of `ForestRow`. */
const props = defineProps<{ width: number; marks: number[] }>()

const left = (mark: number) => `${6 + (mark / 100) * (props.width - 12)}px`
</script>

<template>
  <div class="marks">
    <span v-for="mark in marks" :key="mark" :style="{ left: left(mark) }">{{ mark }}</span>
  </div>
</template>

<style scoped>
.marks {
  position: relative;
  height: 18px;
}
.marks span {
  position: absolute;
  transform: translateX(-50%);
  font-size: 0.72rem;
  color: var(--muted);
}
@media print {
  .marks {
    visibility: hidden;
  }
}
</style>
