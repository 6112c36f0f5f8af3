<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import { typedPercent } from '@/shared/format'
import { text } from '@/shared/text'
import { useShortcuts } from '@/shared/useShortcuts'

/** The pre-test probability as a number and as a slider. */
const model = defineModel<number>({ required: true })
defineProps<{ origin: string }>()

const percent = ref(toPercent(model.value))
const field = ref<HTMLInputElement | null>(null)

function toPercent(p: number): number {
  return Number(typedPercent(p))
}
watch(model, (p) => (percent.value = toPercent(p)))
const valid = computed(() => percent.value >= 0.1 && percent.value <= 99.9)

function change(value: number) {
  percent.value = value
  if (valid.value) model.value = value / 100
}
useShortcuts({
  p: () => {
    field.value?.focus()
    field.value?.select()
  },
})
</script>

<template>
  <div class="pre-test">
    <span class="word">{{ text.question.before }}</span>
    <input
      ref="field"
      class="number"
      type="number"
      min="0.1"
      max="99.9"
      step="1"
      inputmode="decimal"
      :value="percent"
      :aria-label="text.question.preTest"
      :aria-invalid="!valid"
      :title="text.question.range"
      data-test="pretest"
      @input="change(Number(($event.target as HTMLInputElement).value))"
    />
    <span>%</span>
    <input
      class="slider"
      type="range"
      min="1"
      max="99"
      step="1"
      :value="percent"
      :aria-label="text.question.slider"
      @input="change(Number(($event.target as HTMLInputElement).value))"
    />
    <span class="origin" :class="{ bad: !valid }" :title="origin">{{
      valid ? origin : text.question.range
    }}</span>
  </div>
</template>

<style scoped>
.pre-test {
  display: flex;
  align-items: center;
  gap: 6px;
  flex: 1 1 330px;
  min-width: min(300px, 100%);
}
.word {
  color: var(--muted);
  white-space: nowrap;
}
.number {
  width: 4.4em;
  padding: 3px 4px;
  border: 1px solid var(--line);
  border-radius: 4px;
  color: rgb(var(--v-theme-primary));
  background: rgb(var(--v-theme-background));
  font-size: 1.05rem;
  font-weight: 700;
  text-align: right;
}
.number[aria-invalid='true'] {
  border-color: rgb(var(--v-theme-error));
}
.slider {
  flex: 1 1 110px;
  min-width: 90px;
  max-width: 130px;
  margin: 0 6px;
  accent-color: rgb(var(--v-theme-primary));
}
.origin {
  color: var(--muted);
  line-height: 1.2;
  flex: 1 1 120px;
  display: -webkit-box;
  overflow: hidden;
  -webkit-box-orient: vertical;
  -webkit-line-clamp: 2;
  font-size: 0.75rem;
}
@media screen and (max-width: 600px) {
  .pre-test {
    flex-wrap: wrap;
  }
  .number {
    height: 44px;
  }
  .slider {
    height: 44px;
    max-width: none;
  }
  .origin {
    flex-basis: 100%;
  }
}
.origin.bad {
  color: rgb(var(--v-theme-error));
}
/* On paper nothing is moved. */
@media print {
  .pre-test {
    flex: none;
    min-width: 0;
  }
  .origin {
    flex: none;
  }
  .slider {
    display: none;
  }
  .number {
    border: 0;
    width: 3em;
  }
}
</style>
