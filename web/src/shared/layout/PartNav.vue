<script setup lang="ts">
import { useQuestion } from '@/shared/question/useQuestion'

/** The pages of one step of the work, by the names of their routes. */
defineProps<{ label: string; parts: Record<string, string> }>()

const { carried } = useQuestion()
</script>

<template>
  <nav class="parts no-print small" :aria-label="label">
    <router-link
      v-for="(title, name) in parts"
      :key="name"
      :to="{ name, query: carried }"
      :aria-current="$route.name === name ? 'page' : undefined"
      :data-test="`part-${name}`"
      >{{ title }}</router-link
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
@media screen and (max-width: 600px) {
  .parts a {
    padding: 12px 0;
  }
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
