<script setup lang="ts">
import { mdiDeleteOutline, mdiPencilOutline, mdiPlus } from '@mdi/js'
import { computed, ref, watchEffect } from 'vue'

import ShareBar from '@/figures/ShareBar.vue'
import { api } from '@/shared/api/client'
import { refresh, useConditions, usePrevalence } from '@/shared/api/queries'
import type { PrevalenceReport } from '@/shared/api/types'
import { percentInterval, percentPoint, ratioInterval, ratioPoint, whole } from '@/shared/format'
import CautionLine from '@/shared/layout/CautionLine.vue'
import FailureNotice from '@/shared/layout/FailureNotice.vue'
import IconButton from '@/shared/layout/IconButton.vue'
import SampleMark from '@/shared/layout/SampleMark.vue'
import StateNotice from '@/shared/layout/StateNotice.vue'
import WaitLine from '@/shared/layout/WaitLine.vue'
import { useAddress } from '@/shared/question/useAddress'
import { useQuestion } from '@/shared/question/useQuestion'
import { at, reported } from '@/shared/recordChanges'
import { may } from '@/shared/session/session'
import { text } from '@/shared/text'
import { undoBar } from '@/shared/undo'
import { useSaving } from '@/shared/useSaving'
import PrevalenceDialog from './PrevalenceDialog.vue'

/** How common a condition is in people with symptoms and in people without: its reports, and what they say together. */
const props = defineProps<{ id: string }>()

const words = text.prevalence
const { carried } = useQuestion()
const { one, change } = useAddress()
const conditions = useConditions()
const condition = computed(() => (conditions.data.value ?? []).find((it) => it.id === props.id) ?? null)
const choices = { setting: text.setup.choices.setting.words, activity: text.setup.choices.activity.words }

const age = computed(() => {
  const given = Number(one('age') || NaN)
  return given >= 0 && given <= 120 ? given : undefined
})
const chosen = (name: keyof typeof choices) => (one(name) in choices[name] ? one(name) : undefined)
const of = computed(() => ({
  ...(age.value === undefined ? {} : { age: age.value }),
  ...(chosen('setting') ? { setting: chosen('setting')! } : {}),
  ...(chosen('activity') ? { activity: chosen('activity')! } : {}),
}))
const pooled = usePrevalence(() => props.id, of)
const answer = computed(() => pooled.data.value ?? null)
const arms = computed(() => {
  const it = answer.value
  if (!it) return []
  return [
    {
      key: 'with',
      label: words.with,
      share: it.with_symptoms,
      people: it.people_with,
      kind: 'round' as const,
    },
    {
      key: 'without',
      label: words.without,
      share: it.without_symptoms,
      people: it.people_without,
      kind: 'square' as const,
    },
  ]
})
const chance = computed(() => {
  const share = answer.value?.by_chance
  return share ? words.chance(`${percentPoint(share)} (${percentInterval(share)})`) : ''
})
const ratio = computed(() => {
  const it = answer.value?.ratio
  return it ? words.ratio(`${ratioPoint(it)} (${ratioInterval(it)})`) : ''
})

const reports = computed(() => condition.value?.prevalence ?? [])
const about = (it: PrevalenceReport) =>
  [
    it.symptoms ? words[it.symptoms] : '',
    it.age_from != null || it.age_to != null
      ? words.ages(String(it.age_from ?? ''), String(it.age_to ?? ''))
      : '',
    it.setting ? choices.setting[it.setting] : '',
    it.activity ? choices.activity[it.activity] : '',
  ].filter(Boolean)
const counted = (it: PrevalenceReport, index: number) => {
  const share = answer.value?.shares[index]
  const said = share ? `${percentPoint(share)}, ${percentInterval(share)}` : words.otherPeople
  return words.count(whole(it.with_condition ?? 0), whole(it.people ?? 0), said)
}

const open = ref(false)
/** Which report is edited; none for a new one. */
const place = ref<number | null>(null)
const saving = useSaving(words.conflict)
const edited = computed(() => (place.value === null ? null : (reports.value[place.value] ?? null)))

function edit(index: number | null) {
  place.value = index
  saving.begin(condition.value?.version)
  open.value = true
}
/** The condition with these reports, as it is sent. */
function body(prevalence: PrevalenceReport[]) {
  const { region, name, setting, pre_test, must_not_miss } = condition.value!
  return { region, name, setting, pre_test: pre_test ?? null, prevalence, must_not_miss }
}
const put = (header: { 'If-Match': string }, prevalence: PrevalenceReport[]) =>
  api.PUT('/api/v1/conditions/{id}', { params: { path: { id: props.id }, header }, body: body(prevalence) })

async function save(report: PrevalenceReport) {
  const index = place.value
  const all =
    index === null
      ? [...reports.value, report]
      : reports.value.map((it, nth) => (nth === index ? report : it))
  if (!(await saving.save((header) => put(header, all)))) return
  undoBar.offer(words.saved)
  open.value = false
}
const remove = (index: number) =>
  reported(async () => {
    const before = reports.value
    const { header } = at(props.id, condition.value!.version).params
    const rest = before.filter((_, nth) => nth !== index)
    const { data: saved } = await put(header, rest)
    undoBar.offer(words.removed, async () => {
      if (saved) await put({ 'If-Match': `"${saved.version}"` }, before)
      await refresh()
    })
  })
/** What is wrong with the report that is being written. */
const wrong = (field: string) => saving.of(`prevalence[${place.value ?? reports.value.length}].${field}`)
watchEffect(() => (document.title = `${words.title(condition.value?.name ?? '')} – Pruvex`))
</script>

<template>
  <div>
    <nav class="small no-print" :aria-label="text.layout.back">
      <router-link :to="{ name: 'structures', query: carried }">← {{ text.vocabulary.title }}</router-link>
    </nav>
    <WaitLine :active="pooled.isFetching.value" />
    <FailureNotice v-if="pooled.isError.value && !answer" :query="pooled" :title="words.failed" />
    <template v-else-if="condition">
      <div class="title-bar">
        <h1 dir="auto">{{ words.title(condition.name) }}</h1>
        <v-btn
          v-if="may('write_sheets')"
          class="no-print"
          :prepend-icon="mdiPlus"
          data-test="add-prevalence"
          @click="edit(null)"
        >
          {{ words.add }}
        </v-btn>
      </div>
      <p class="muted about">{{ words.about }}</p>
      <StateNotice v-if="!reports.length" :title="words.none" :detail="words.noneDetail" />
      <template v-else>
        <div class="filter no-print" role="group" :aria-label="words.filter">
          <v-text-field
            :model-value="one('age')"
            :label="words.age"
            :suffix="words.years"
            type="number"
            min="0"
            max="120"
            hide-spin-buttons
            hide-details
            data-test="prevalence-age"
            @update:model-value="change({ age: String($event ?? '') || undefined })"
          />
          <v-select
            v-for="(its, name) in choices"
            :key="name"
            :model-value="chosen(name) ?? ''"
            :items="[
              { value: '', title: name === 'setting' ? words.anySetting : words.anyActivity },
              ...Object.entries(its).map(([value, title]) => ({ value, title })),
            ]"
            :label="words.fields[name]"
            hide-details
            :data-test="`prevalence-${name}`"
            @update:model-value="change({ [name]: $event || undefined })"
          />
        </div>
        <section v-if="answer" class="answer" aria-live="polite" data-test="prevalence-answer">
          <StateNotice v-if="!answer.sources" :title="words.noneFits" />
          <template v-else>
            <p class="small muted">
              <SampleMark v-if="answer.sample" /> {{ words.sources(answer.sources) }}.
              <template v-if="answer.apart">{{ words.apart(answer.apart) }}</template>
            </p>
            <div v-for="arm in arms" :key="arm.key" class="arm" :data-test="`prevalence-${arm.key}`">
              <span>{{ arm.label }}</span>
              <template v-if="arm.share">
                <ShareBar :width="260" :share="arm.share" :kind="arm.kind" />
                <b>{{ percentPoint(arm.share) }}</b>
                <span class="small muted"
                  >{{ percentInterval(arm.share) }}, {{ words.people(whole(arm.people)) }}</span
                >
              </template>
              <span v-else class="muted">{{ words.nobody }}</span>
            </div>
            <p v-if="ratio">{{ ratio }}</p>
            <p v-if="chance" data-test="by-chance">{{ chance }}</p>
            <p v-if="answer.incidental === 'not_known'">{{ words.notKnown }}</p>
            <p v-if="!answer.converged" class="failure">{{ text.pooled.notConverged }}</p>
          </template>
        </section>
        <h2>{{ words.reports }}</h2>
        <table class="stacked">
          <thead>
            <tr>
              <th scope="col">{{ words.fields.source }}</th>
              <th scope="col">{{ words.filter }}</th>
              <th scope="col">{{ words.fields.with_condition }}</th>
              <th scope="col">{{ words.fields.method }}</th>
              <th>
                <span class="visually-hidden">{{ text.study.actions }}</span>
              </th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(report, index) in reports" :key="index" data-test="prevalence-report">
              <th scope="row" dir="auto"><SampleMark v-if="report.sample" /> {{ report.source }}</th>
              <td :data-label="words.filter">{{ about(report).join(' · ') }}</td>
              <td :data-label="words.fields.with_condition">{{ counted(report, index) }}</td>
              <td dir="auto" :data-label="words.fields.method">{{ report.method }}</td>
              <td class="no-print">
                <template v-if="may('write_sheets')">
                  <IconButton
                    :icon="mdiPencilOutline"
                    :label="`${words.edit}: ${report.source}`"
                    :hint="words.edit"
                    @click="edit(index)"
                  />
                  <IconButton
                    :icon="mdiDeleteOutline"
                    :label="`${words.remove}: ${report.source}`"
                    :hint="words.remove"
                    @click="remove(index)"
                  />
                </template>
              </td>
            </tr>
          </tbody>
        </table>
      </template>
      <CautionLine />
      <PrevalenceDialog
        v-model:open="open"
        :report="edited"
        :failure="saving.failure.value"
        :saving="saving.saving.value"
        :of="wrong"
        @save="save"
      />
    </template>
  </div>
</template>

<style scoped>
.about {
  max-width: 76ch;
  margin: 4px 0 14px;
}
.filter {
  display: grid;
  grid-template-columns: 140px 220px 220px;
  gap: 10px;
}
.answer {
  max-width: 76ch;
  margin: 16px 0 26px;
}
.answer > p + p {
  margin-top: 6px;
}
.arm {
  display: grid;
  grid-template-columns: 170px 260px 60px 1fr;
  gap: 12px;
  align-items: center;
  padding: 3px 0;
}
table {
  width: 100%;
  max-width: 1000px;
  margin-top: 6px;
  border-collapse: collapse;
}
th,
td {
  padding: 5px 10px 5px 0;
  text-align: left;
  vertical-align: top;
  border-bottom: 1px solid var(--line);
}
thead th {
  font-size: 0.8125rem;
}
tbody th {
  font-weight: 600;
}
td:last-child {
  white-space: nowrap;
}
@media (max-width: 700px) {
  .filter {
    grid-template-columns: minmax(0, 1fr);
  }
  .arm {
    grid-template-columns: auto minmax(0, 1fr);
    gap: 2px 12px;
  }
}
</style>
