<script setup lang="ts">
import { computed } from 'vue'

import { useExaminationsWaiting } from '@/shared/api/queries'
import { text } from '@/shared/text'

/** Reminds of what waits in one's own examinations; nothing where nothing does. */
const words = text.examination.waiting
const waiting = useExaminationsWaiting()
const parts = computed(() => {
  const { overdue = 0, due = 0, awaiting = 0 } = waiting.data.value ?? {}
  return [
    { state: 'due', said: overdue ? words.overdue(overdue) : '', alarm: true },
    { state: 'due', said: due ? words.due(due) : '', alarm: false },
    { state: 'awaiting', said: awaiting ? words.awaiting(awaiting) : '', alarm: false },
  ].filter(({ said }) => said)
})
</script>

<template>
  <p v-if="parts.length" class="small no-print waiting" data-test="examinations-waiting">
    <router-link
      v-for="part in parts"
      :key="part.said"
      :class="{ alarm: part.alarm }"
      :to="{ name: 'examinations', query: { state: part.state } }"
      >{{ part.said }}</router-link
    >
  </p>
</template>

<style scoped>
.waiting {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 18px;
  margin: 4px 0 10px;
}
.alarm {
  color: rgb(var(--v-theme-error));
  font-weight: 600;
}
</style>
