<script setup lang="ts">
import { useRoute } from 'vue-router'

import type { Finding } from '@/shared/api/types'
import { useQuestion } from '@/shared/question/useQuestion'
import { text } from '@/shared/text'
import { contradicts } from './contradictions'

/** What the checks found, beside the sheet that is being written. */
defineProps<{ findings: Finding[]; waiting: boolean }>()

const route = useRoute()
const { carried } = useQuestion()
/** A contradiction of a stored sheet can be filed; in a page of its own, so that nothing typed here is left. */
const filed = (finding: Finding) => ({
  name: 'conflicts',
  query: { ...carried.value, file: String(route.params.id), found: finding.message },
})

/** Brings the place into view and the keyboard into it; a field that is not shown yet is looked for in what holds it. */
function show(finding: Finding) {
  for (let path = finding.field; path; path = path.replace(/(\.[^.[\]]+|\[\d+\])$/, '')) {
    const place = document.querySelector<HTMLElement>(`[data-path="${CSS.escape(path)}"]`)
    if (place) {
      place.scrollIntoView({ block: 'center' })
      const field = place.matches('input, textarea')
        ? place
        : place.querySelector<HTMLElement>('input, textarea')
      field?.focus({ preventScroll: true })
      return
    }
    if (!/[.[]/.test(path)) return
  }
}
</script>

<template>
  <section class="margin" :aria-label="text.editor.findings" data-test="findings">
    <h2>{{ text.editor.findings }}</h2>
    <p v-if="waiting" class="small muted">{{ text.editor.findingsAfter }}</p>
    <p v-else-if="!findings.length" class="small muted">{{ text.editor.noFinding }}</p>
    <ul v-else aria-live="polite">
      <li v-for="finding in findings" :key="finding.field + finding.message" class="small wrap-anywhere">
        <p>{{ finding.message }}</p>
        <p class="muted">{{ finding.remedy }}</p>
        <v-btn size="x-small" variant="text" @click="show(finding)">{{ text.editor.show }}</v-btn>
        <router-link v-if="route.params.id && contradicts(finding)" target="_blank" :to="filed(finding)">{{
          text.conflicts.file
        }}</router-link>
      </li>
    </ul>
  </section>
</template>

<style scoped>
h2 {
  margin-bottom: 8px;
  font-size: 1rem;
}
ul {
  display: grid;
  gap: 10px;
  padding: 0;
  list-style: none;
}
li {
  padding-left: 10px;
  border-left: 3px solid rgb(var(--v-theme-warning));
}
</style>
