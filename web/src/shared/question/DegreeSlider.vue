<script setup lang="ts">
/** A degree that somebody tries: a slider below the words for where it stands. */
defineProps<{
  label: string
  /** Where it stands, in words. */
  said: string
  modelValue: number
  ends?: [number, number]
  step?: number
  test: string
}>()
const emit = defineEmits<{ 'update:modelValue': [to: number] }>()
</script>

<template>
  <label class="small slider no-print">
    {{ label }}: <b>{{ said }}</b>
    <input
      type="range"
      :min="ends?.[0] ?? 0"
      :max="ends?.[1] ?? 0.9"
      :step="step ?? 0.1"
      :value="modelValue"
      :aria-valuetext="said"
      :data-test="test"
      @input="emit('update:modelValue', Number(($event.target as HTMLInputElement).value))"
    />
  </label>
</template>

<style scoped>
.slider {
  display: block;
}
input {
  display: block;
  width: 100%;
  max-width: 260px;
  min-height: 24px;
  accent-color: rgb(var(--v-theme-primary));
}
</style>
