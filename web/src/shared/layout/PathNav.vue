<script setup lang="ts">
import { useQuestion } from '@/shared/question/useQuestion'
import { text } from '@/shared/text'

/** The steps of the work in their order; what belongs to a step shows it as the current one. */
const { carried } = useQuestion()
const STEP_OF: Record<string, string> = {
  sheet: 'catalogue',
  'new-test': 'catalogue',
  'edit-test': 'catalogue',
  history: 'catalogue',
}
const current = (name: unknown, step: string) => name === step || STEP_OF[String(name)] === step
</script>

<template>
  <nav class="path no-print" :aria-label="text.layout.path">
    <ol>
      <li v-for="(label, step) in text.layout.steps" :key="step">
        <router-link
          :to="{ name: step, query: carried }"
          :aria-current="current($route.name, step) ? 'true' : undefined"
          :data-test="`step-${step}`"
        >
          {{ label }}
        </router-link>
      </li>
    </ol>
  </nav>
</template>

<style scoped>
ol {
  display: flex;
  gap: 6px;
  padding: 0;
  margin-bottom: 10px;
  list-style: none;
}
li + li::before {
  content: '→';
  padding-right: 6px;
  color: var(--muted);
}
a {
  color: var(--muted);
  text-decoration: none;
}
a[aria-current] {
  color: inherit;
  font-weight: 700;
}
a:hover {
  text-decoration: underline;
}
</style>
