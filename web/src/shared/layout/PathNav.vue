<script setup lang="ts">
import { useQuestion } from '@/shared/question/useQuestion'
import { text } from '@/shared/text'
import PlacesMenu from './PlacesMenu.vue'

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
    <PlacesMenu />
  </nav>
</template>

<style scoped>
.path {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 20px;
  margin-bottom: 10px;
}
ol {
  display: flex;
  gap: 6px;
  padding: 0;
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
@media screen and (max-width: 600px) {
  .path {
    margin-bottom: 2px;
  }
  ol {
    flex: 1;
    justify-content: space-between;
    gap: 0;
  }
  li {
    font-size: 0.8125rem;
  }
  li + li::before {
    padding-right: 3px;
  }
  a {
    display: inline-block;
    padding: 13px 0;
  }
}
</style>
