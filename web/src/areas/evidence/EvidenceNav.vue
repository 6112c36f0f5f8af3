<script setup lang="ts">
import { may } from '@/shared/session/session'
import { useQuestion } from '@/shared/question/useQuestion'
import { text } from '@/shared/text'

/** The parts of the evidence, for those who enter it. */
const { carried } = useQuestion()
</script>

<template>
  <nav v-if="may('write_studies')" class="parts no-print small" :aria-label="text.layout.evidence">
    <router-link
      v-for="(label, name) in text.layout.evidenceParts"
      :key="name"
      :to="{ name, query: carried }"
      :aria-current="$route.name === name ? 'page' : undefined"
      :data-test="`part-${name}`"
      >{{ label }}</router-link
    >
  </nav>
</template>

<style scoped>
.parts {
  display: flex;
  gap: 16px;
  margin-bottom: 8px;
}
a {
  padding-bottom: 2px;
  color: var(--muted);
  text-decoration: none;
  border-bottom: 2px solid transparent;
}
a:hover {
  text-decoration: underline;
}
a[aria-current] {
  color: inherit;
  font-weight: 600;
  border-bottom-color: rgb(var(--v-theme-primary));
}
</style>
