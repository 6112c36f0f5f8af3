<script setup lang="ts">
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { text } from '@/shared/text'
import { firstVisit } from './firstVisit'

/** Whoever sees the demonstration for the first time is led through it once, a step a page; ended once, it never comes back. */
const words = text.guide.visit
const route = useRoute()
const router = useRouter()
const step = computed(() => (firstVisit.ended ? undefined : words.steps[firstVisit.step]))
const here = computed(() => !step.value || route.path === step.value.to.split('?')[0])
const last = computed(() => firstVisit.step === words.steps.length - 1)

function next() {
  if (last.value) return firstVisit.end()
  firstVisit.go(firstVisit.step + 1)
  void router.push(words.steps[firstVisit.step]!.to)
}
</script>

<template>
  <aside v-if="step" class="visit no-print" :aria-label="words.title" data-test="first-visit">
    <p>
      <b>{{ words.place(firstVisit.step + 1, words.steps.length) }} {{ step.title }}.</b>
      {{ step.said }}
    </p>
    <div class="buttons">
      <v-btn v-if="!here" size="small" @click="router.push(step.to)">{{ words.back }}</v-btn>
      <v-btn size="small" variant="flat" color="primary" data-test="visit-next" @click="next">{{
        last ? words.done : words.next
      }}</v-btn>
      <v-btn v-if="!last" size="small" variant="text" data-test="visit-end" @click="firstVisit.end()">{{
        words.end
      }}</v-btn>
    </div>
  </aside>
</template>

<style scoped>
.visit {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  justify-content: space-between;
  gap: 4px 24px;
  margin-bottom: 14px;
  padding: 8px 14px;
  border: 1px solid rgb(var(--v-theme-primary));
  border-radius: 8px;
  background: rgb(var(--v-theme-surface));
}
p {
  flex: 1 1 420px;
}
.buttons {
  margin: 0;
}
</style>
