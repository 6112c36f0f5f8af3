<script setup lang="ts">
import { computed } from 'vue'

import AppraisalPost from '@/figures/AppraisalPost.vue'
import { useAppraisalQuestions } from '@/shared/api/queries'
import type { Aspect, StudyView } from '@/shared/api/types'
import { text } from '@/shared/text'

/** How many of these studies are at which risk, domain by domain. */
const props = defineProps<{ aspect: Aspect; studies: StudyView[] }>()

const questions = useAppraisalQuestions()
const asked = computed(() => questions.data.value?.find((it) => it.aspect === props.aspect))
const unique = computed(() => [...new Map(props.studies.map((study) => [study.id, study])).values()])
const LEVELS = ['low', 'unclear', 'high', 'none'] as const
const rows = computed(() =>
  (asked.value?.domains ?? []).map(({ domain }) => {
    const risks = unique.value.map((study) => {
      const appraisal = study.appraisals.find((it) => it.aspect === props.aspect)
      return appraisal?.domains[domain]?.risk ?? 'none'
    })
    const counts = LEVELS.map((level) => ({ level, n: risks.filter((risk) => risk === level).length }))
    return { domain, counts: counts.filter(({ n }) => n) }
  }),
)
</script>

<template>
  <details v-if="asked && unique.length" data-test="trust">
    <summary>{{ text.appraisal.summary }}</summary>
    <table class="risks small">
      <tbody>
        <tr v-for="row in rows" :key="row.domain">
          <th scope="row">{{ text.appraisal.domains[row.domain] }}</th>
          <td>
            <span class="bar">
              <span
                v-for="{ level, n } in row.counts"
                :key="level"
                class="part"
                :class="level"
                :style="{ flexGrow: n }"
                :title="text.appraisal.share(n, unique.length, level)"
              >
                <span class="count">{{ n }}</span>
                <span class="visually-hidden">{{ text.appraisal.share(n, unique.length, level) }}</span>
              </span>
            </span>
          </td>
        </tr>
      </tbody>
      <tfoot>
        <tr>
          <th scope="row" class="muted">{{ text.appraisal.key }}</th>
          <td>
            <span v-for="level in LEVELS" :key="level" class="key">
              <span class="part swatch" :class="level"></span>
              <svg width="8" height="18" aria-hidden="true">
                <g transform="translate(1 1)"><AppraisalPost :risk="level === 'none' ? null : level" /></g>
              </svg>
              {{ text.appraisal.levels[level] }}
            </span>
          </td>
        </tr>
      </tfoot>
    </table>
    <p class="small muted">{{ text.appraisal.source[aspect] }}</p>
  </details>
  <!-- The marks beside the studies are printed, whether this is open or not. -->
  <p v-if="asked && unique.length" class="small muted print-only">{{ text.appraisal.source[aspect] }}</p>
</template>

<style scoped>
details {
  margin-top: 10px;
}
summary {
  color: var(--muted);
  font-size: 0.875rem;
}
.risks {
  margin-top: 6px;
  width: 100%;
  max-width: 720px;
  border-collapse: collapse;
}
th {
  width: 13em;
  padding: 3px 12px 3px 0;
  font-weight: 400;
  text-align: left;
}
.bar {
  display: flex;
  gap: 2px;
}
.part {
  flex-basis: 0;
  min-width: 1.6em;
  height: 18px;
  border: 1px solid rgb(var(--v-theme-on-background));
  text-align: center;
  line-height: 16px;
}
/* Weight of ink and pattern, no colour: whole, hatched, empty, and dotted for what nobody judged. */
.low {
  background: rgb(var(--v-theme-on-background));
  color: rgb(var(--v-theme-background));
}
.unclear {
  background: repeating-linear-gradient(
    135deg,
    transparent 0 4px,
    color-mix(in srgb, rgb(var(--v-theme-on-background)) 30%, transparent) 4px 6px
  );
}
.none {
  border-style: dotted;
  color: var(--muted);
}
.unclear .count {
  padding: 0 4px;
  background: rgb(var(--v-theme-background));
}
.key {
  display: inline-flex;
  align-items: center;
  gap: 6px;
  margin-right: 16px;
}
.swatch {
  display: inline-block;
  flex: none;
  width: 22px;
  height: 12px;
  min-width: 0;
}
</style>
