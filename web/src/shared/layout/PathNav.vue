<script setup lang="ts">
import { computed } from 'vue'
import { useRouter } from 'vue-router'

import { may } from '@/shared/session/session'
import { useQuestion } from '@/shared/question/useQuestion'
import { text } from '@/shared/text'

/** The steps of the work in their order; a page says by its route which one it belongs to. */
const { carried } = useQuestion()
const router = useRouter()
const steps = computed(() =>
  Object.entries(text.layout.steps).filter(([name]) => {
    const { right } = router.resolve({ name }).meta
    return !right || may(right)
  }),
)
</script>

<template>
  <nav class="path no-print" :aria-label="text.layout.path">
    <ol>
      <li v-for="[step, label] in steps" :key="step">
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
