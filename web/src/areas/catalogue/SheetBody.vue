<script setup lang="ts">
import type { TestView } from '@/shared/api/types'
import { text } from '@/shared/text'

defineProps<{ sheet: TestView }>()
</script>

<template>
  <article class="sheet wrap-anywhere">
    <section class="finding">
      <h2>{{ text.sheet.finding }}</h2>
      <p class="pre-line" dir="auto">{{ sheet.positive_finding }}</p>
    </section>
    <section class="cautions">
      <h2>{{ text.sheet.cautions }}</h2>
      <ul v-if="sheet.cautions.length">
        <li v-for="(caution, index) in sheet.cautions" :key="index" class="pre-line" dir="auto">
          {{ caution }}
        </li>
      </ul>
      <p v-else class="muted">{{ text.sheet.noCaution }}</p>
    </section>
    <section>
      <h2>{{ text.sheet.position }}</h2>
      <p class="pre-line" dir="auto">{{ sheet.patient_position || text.sheet.nothing }}</p>
    </section>
    <section>
      <h2>{{ text.sheet.steps }}</h2>
      <ol v-if="sheet.steps.length">
        <li v-for="(step, index) in sheet.steps" :key="index" class="pre-line" dir="auto">{{ step }}</li>
      </ol>
      <p v-else class="muted">{{ text.sheet.nothing }}</p>
    </section>
    <section>
      <h2>{{ text.sheet.pitfalls }}</h2>
      <ul v-if="sheet.pitfalls.length">
        <li v-for="(pitfall, index) in sheet.pitfalls" :key="index" class="pre-line" dir="auto">
          {{ pitfall }}
        </li>
      </ul>
      <p v-else class="muted">{{ text.sheet.nothing }}</p>
    </section>
    <dl class="small">
      <dt>{{ text.sheet.condition }}</dt>
      <dd dir="auto">{{ sheet.condition }}</dd>
      <dt>{{ text.sheet.targets }}</dt>
      <dd dir="auto">{{ sheet.target_structures.join('; ') || text.sheet.nothing }}</dd>
    </dl>
  </article>
</template>

<style scoped>
.sheet {
  max-width: 72ch;
}
section {
  margin-bottom: 16px;
}
h2 {
  margin-bottom: 3px;
  font-size: 1.05rem;
}
ul,
ol {
  padding-left: 1.3em;
}
li {
  margin-bottom: 4px;
}
.finding p {
  font-size: 1.08rem;
}
.cautions {
  padding-left: 14px;
  border-left: 3px solid rgb(var(--v-theme-error));
}
dl {
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 3px 14px;
  padding-top: 10px;
  border-top: 1px solid var(--line);
}
dt {
  color: var(--muted);
}
</style>
