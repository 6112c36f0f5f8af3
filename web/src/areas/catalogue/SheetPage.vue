<script setup lang="ts">
import { mdiContentCopy, mdiFilePdfBox, mdiPencilOutline, mdiPrinterOutline } from '@mdi/js'
import { useQuery } from '@tanstack/vue-query'
import { computed, defineAsyncComponent, watchEffect } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import ResultSection from '@/areas/evidence/ResultSection.vue'
import AnswerPanel from '@/areas/likelihood/AnswerPanel.vue'
import PooledPanel from '@/areas/pooling/PooledPanel.vue'
import ReviewBar from '@/areas/review/ReviewBar.vue'
import { api, data } from '@/shared/api/client'
import { usePooled, useTest } from '@/shared/api/queries'
import { moment } from '@/shared/format'
import CautionLine from '@/shared/layout/CautionLine.vue'
import FailureNotice from '@/shared/layout/FailureNotice.vue'
import SampleMark from '@/shared/layout/SampleMark.vue'
import WaitLine from '@/shared/layout/WaitLine.vue'
import { printPage } from '@/shared/printPage'
import { useQuestion } from '@/shared/question/useQuestion'
import { may } from '@/shared/session/session'
import { text } from '@/shared/text'
import { useShortcuts } from '@/shared/useShortcuts'
import SheetBody from './SheetBody.vue'
import { contradicts } from './contradictions'
import type { PartKey } from './sheetFields'
import { useKept } from './useKept'

// Who reads must not wait for the form, nor for what stands at the end of the page.
const SheetDesk = defineAsyncComponent(() => import('./SheetDesk.vue'))
const ConflictSection = defineAsyncComponent(() => import('./ConflictSection.vue'))
const AgreementSection = defineAsyncComponent(() => import('@/areas/evidence/AgreementSection.vue'))
const props = defineProps<{ id: string }>()

const route = useRoute()
const router = useRouter()
const { region, condition, preTest, carried, asking } = useQuestion()
const test = useTest(() => props.id)
const sheet = computed(() => test.data.value)
/** Which of the sheet's conditions the question is about; not said while it is the leading one, or none of them. */
const asked = computed(() => sheet.value?.other_conditions.find((name) => name === condition.value?.name))
const pooled = usePooled(() => props.id, asked)
watchEffect(() => {
  if (sheet.value) document.title = `${sheet.value.name} – Pruvex`
})

const findings = useQuery({
  queryKey: ['findings', computed(() => props.id)],
  queryFn: async () =>
    data(await api.GET('/api/v1/tests/{id}/findings', { params: { path: { id: props.id } } })),
  enabled: computed(() => may('read_drafts')),
})
const duplicatePage = computed(() => ({ name: 'new-test', query: { ...carried.value, from: props.id } }))
const editPage = computed(() => ({ name: 'edit-test', params: { id: props.id }, query: carried.value }))
/** The printed sheet reads results at the question's probability, if the question is about its condition. */
const pdf = computed(() => {
  const fits = !condition.value || [sheet.value?.condition, asked.value].includes(condition.value.name)
  const query = new URLSearchParams({
    ...(asked.value ? { condition: asked.value } : {}),
    ...(fits ? { pre_test: String(preTest.value) } : {}),
  })
  return `/api/v1/tests/${props.id}/sheet.pdf${query.size ? `?${query}` : ''}`
})

/** The part that is edited in its place; in the address, so that a reload goes on and the back button closes it. */
const part = computed<PartKey | null>({
  get: () =>
    may('write_sheets') && String(route.query.part) in text.parts ? (route.query.part as PartKey) : null,
  set: (to) => void router.push({ query: { ...route.query, part: to ?? undefined } }),
})
const left = useKept(props.id, may('write_sheets'))
useShortcuts({ e: () => may('write_sheets') && void router.push(editPage.value) })
</script>

<template>
  <div>
    <nav class="path small no-print" :aria-label="text.layout.back">
      <router-link :to="{ name: 'catalogue', query: carried }">← {{ text.regions[region] }}</router-link>
    </nav>
    <FailureNotice v-if="test.isError.value && !sheet" :query="test" :title="text.sheet.failed">
      <v-btn :to="{ name: 'catalogue', query: carried }">{{ text.layout.toCatalogue }}</v-btn>
    </FailureNotice>
    <WaitLine v-else-if="!sheet" />
    <template v-else>
      <header class="head">
        <div class="wrap-anywhere">
          <h1 dir="auto">{{ sheet.name }}</h1>
          <p class="muted">
            <SampleMark v-if="test.data.value?.sample" />
            <template v-if="sheet.basis">{{ text.sheet.basis(text.basis[sheet.basis]) }} · </template>
            {{ text.purposes[sheet.purpose] }}
            <template v-if="sheet.aliases.length">
              · {{ text.sheet.aliases }}: <span dir="auto">{{ sheet.aliases.join(', ') }}</span>
            </template>
          </p>
        </div>
        <div class="actions no-print">
          <v-btn :prepend-icon="mdiFilePdfBox" :href="pdf" target="_blank" data-test="pdf">
            {{ text.sheet.pdf }}
          </v-btn>
          <v-btn :prepend-icon="mdiPrinterOutline" @click="printPage">{{ text.sheet.print }}</v-btn>
          <v-btn
            v-if="may('write_sheets')"
            :icon="mdiContentCopy"
            size="small"
            variant="text"
            :to="duplicatePage"
            :aria-label="text.sheet.duplicate"
            :title="text.sheet.duplicate"
            data-test="duplicate"
          />
          <v-btn
            v-if="may('write_sheets')"
            :prepend-icon="mdiPencilOutline"
            :to="editPage"
            data-test="edit-sheet"
            >{{ text.sheet.edit }}</v-btn
          >
        </div>
      </header>
      <ReviewBar
        :record="sheet"
        kind="tests"
        :label="text.review.label"
        :history="{ name: 'history', params: { id: sheet.id }, query: carried }"
      />
      <details v-if="findings.data.value?.length" class="findings no-print small" data-test="sheet-findings">
        <summary>{{ text.sheet.findings(findings.data.value.length) }}</summary>
        <ul>
          <li v-for="finding in findings.data.value" :key="finding.field + finding.message">
            {{ finding.message }} <span class="muted">{{ finding.remedy }}</span>
            <router-link
              v-if="may('write_sheets') && contradicts(finding)"
              :to="{ name: 'conflicts', query: { ...carried, file: id, found: finding.message } }"
              data-test="file-conflict"
              >{{ text.conflicts.file }}</router-link
            >
          </li>
        </ul>
      </details>
      <p v-if="!part && left.data.value" class="left small no-print" data-test="left-unsaved">
        {{ text.sheet.left(moment(left.data.value.at)) }}
        <v-btn size="small" :to="editPage">{{ text.sheet.goOn }}</v-btn>
      </p>
      <div :class="['spread', { editing: part }]">
        <SheetDesk v-if="part" v-model:open="part" :sheet="sheet" />
        <SheetBody v-else :sheet="sheet" :editable="may('write_sheets')" @edit="part = $event" />
        <aside>
          <p v-if="sheet.other_conditions.length" class="small for no-print" data-test="figures-for">
            {{ text.sheet.figuresFor }}
            <template v-for="name in [sheet.condition, ...sheet.other_conditions]" :key="name">
              <b v-if="name === (asked ?? sheet.condition)" dir="auto">{{ name }}</b>
              <router-link
                v-else
                replace
                :to="{ query: asking({ region: sheet.region, condition: name }) }"
                >{{ name }}</router-link
              >
            </template>
          </p>
          <AnswerPanel
            :id="id"
            :region="sheet.region"
            :target="asked ?? sheet.condition"
            :answer="pooled.data.value ?? null"
          />
          <PooledPanel :test-id="id" :query="pooled" />
          <CautionLine />
        </aside>
      </div>
      <ResultSection :test-id="id" :condition="asked" :pooled="pooled.data.value ?? null" />
      <AgreementSection :test-id="id" />
      <ConflictSection :test="id" />
    </template>
  </div>
</template>

<style scoped>
.path a {
  text-decoration: none;
}
.head {
  display: flex;
  align-items: flex-start;
  justify-content: space-between;
  gap: 20px;
  margin: 6px 0 18px;
}
.actions {
  display: flex;
  flex: none;
  flex-wrap: wrap;
  gap: 8px;
  max-width: 100%;
}
.for {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  margin-bottom: 12px;
}
.findings {
  margin-bottom: 16px;
  padding-left: 12px;
  border-left: 3px solid rgb(var(--v-theme-warning));
}
.findings summary {
  cursor: pointer;
  font-weight: 600;
}
.findings ul {
  padding-left: 18px;
}
.left {
  margin-bottom: 14px;
}
.spread {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 430px);
  gap: 40px;
  align-items: start;
}
.spread.editing {
  grid-template-columns: minmax(0, 1fr) minmax(0, 300px);
}
@media (max-width: 1020px) {
  .spread,
  .spread.editing {
    grid-template-columns: minmax(0, 1fr);
    gap: 22px;
  }
  .head {
    flex-wrap: wrap;
  }
}
</style>
