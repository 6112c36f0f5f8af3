<script setup lang="ts">
/** Labels with what is written of each; nothing at all when nothing is written. */
defineProps<{ title?: string; facts: { label: string; value: string }[] }>()
</script>

<template>
  <template v-if="facts.length">
    <h3 v-if="title">{{ title }}</h3>
    <dl>
      <template v-for="fact in facts" :key="fact.label">
        <dt>{{ fact.label }}</dt>
        <dd class="pre-line" dir="auto">{{ fact.value }}</dd>
      </template>
    </dl>
  </template>
</template>

<style scoped>
dl {
  display: grid;
  grid-template-columns: minmax(84px, max-content) 1fr;
  gap: 3px 14px;
  margin: 6px 0 10px;
}
dt {
  max-width: 15ch;
  color: var(--muted);
  font-size: 0.875rem;
}
h3 {
  margin: 12px 0 2px;
}
@media (max-width: 600px) {
  dl {
    grid-template-columns: 1fr;
  }
  dt {
    max-width: none;
  }
}
</style>
