<script setup lang="ts">
/** The percentages above a column of a paired forest, on the axis of `ForestRow`. */
defineProps<{ marks: number[] }>()

const left = (mark: number) => `calc(6px + (100% - 12px) * ${mark / 100})`
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
</style>
