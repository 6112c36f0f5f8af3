<script setup lang="ts">
import { useQuestion } from '@/shared/question/useQuestion'
import { text } from '@/shared/text'

/** The steps of the work in their order; a page says by its route which one it belongs to. */
const { carried } = useQuestion()
</script>

<template>
  <nav class="path no-print" :aria-label="text.layout.path">
    <ol>
      <li v-for="(label, step) in text.layout.steps" :key="step">
        <router-link
          :to="{ name: step, query: carried }"
          :aria-current="$route.meta.step === step ? 'true' : undefined"
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
