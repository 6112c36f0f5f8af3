<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import { cautionNotes, stepNotes, urgentRow } from '@/areas/catalogue/sheetSentences'
import { positions } from '@/areas/catalogue/sheetWords'
import TryTable from '@/areas/catalogue/TryTable.vue'
import { deadline, fitWords } from '@/areas/plan/planWords'
import type {
  Attempt,
  ExaminationStands,
  ExaminationTestInput,
  ReadingRow,
  TestView,
  UrgentReading,
} from '@/shared/api/types'
import { text } from '@/shared/text'
import AttemptEntry from './AttemptEntry.vue'
import AttemptList from './AttemptList.vue'
import ExamineQuestions from './ExamineQuestions.vue'
import type { Running } from './useExamination'

/** One test, big: what to ask, how to place the patient, what to do and say, then what it showed. */
const props = defineProps<{
  running: Running
  planned: ExaminationTestInput
  place: number
  stands: ExaminationStands | null
  sheet: TestView | undefined
  affectedFirst: boolean
}>()

const words = text.examination.run
const test = computed(() => String(props.planned.test))
const variant = computed(() => {
  const all = props.sheet?.variants ?? []
  const key = (name: string) => name.trim().toLowerCase()
  return all.find((it) => props.planned.variant && key(it.name) === key(props.planned.variant)) ?? all[0]
})
const fit = computed(() => props.stands?.fit.tests[props.place] ?? null)
const screened = computed(() => props.stands?.fit.screened.indexOf(test.value) ?? -1)
/** Questions that decide about this test and are not safely answered. */
const asked = computed(() =>
  (props.stands?.fit.questions ?? []).filter(
    (it) =>
      it.tests.includes(screened.value) &&
      (!it.answer || it.answer === 'unknown' || it.unsafe_answers.includes(it.answer)),
  ),
)
const answers = computed(() => props.running.entries.value?.patient.answers ?? {})
const locked = computed(() => fit.value?.state === 'locked')
const out = computed(() => !!fit.value && (fit.value.left_out || fit.value.state === 'not_now'))
const cautions = (kind: 'precaution' | 'stop_rule') =>
  (props.sheet?.cautions ?? []).filter(
    (it) => it.kind === kind && (!it.variant || it.variant === variant.value?.name),
  )
const said = computed(() => props.running.of(test.value))
const attempts = computed(() => said.value?.attempts ?? [])
const reading = computed(() => props.stands?.readings[props.place] ?? null)
const pitfalls = computed(() =>
  (props.sheet?.pitfalls ?? []).filter((it) => it.patient_side).map((it) => it.text),
)
const positive = computed(() => (variant.value?.criteria ?? []).filter((it) => it.outcome === 'positive'))

const record = (attempt: Attempt) =>
  props.running.change((to) => {
    const own = props.running.begun(to, test.value)
    own.attempts.push(attempt)
    own.skipped = false
  })
const changeLast = (work: (last: Attempt) => void) =>
  props.running.change((to) => {
    const last = props.running.begun(to, test.value).attempts.at(-1)
    if (last) work(last)
  })
const remove = (place: number) =>
  props.running.change((to) => void props.running.begun(to, test.value).attempts.splice(place, 1))
/** What the sheet calls urgent, and the urgent rows of its interpretation table. */
const urgentFindings = computed((): UrgentReading[] => [
  ...(props.sheet?.urgent ?? []),
  ...(props.sheet?.interpretation.rows ?? [])
    .filter((row) => row.urgent)
    .map((row) => urgentRow(row, props.sheet?.interpretation.measures ?? [])),
])
/** A measured value whose reading is urgent interrupts by itself, once. */
function read(rows: ReadingRow[]) {
  const known = props.running.entries.value?.conduct.urgent ?? []
  for (const row of rows.filter((row) => row.urgent)) {
    const found = urgentRow(row, props.sheet?.interpretation.measures ?? [])
    if (!known.some((it) => it.test === test.value && it.finding === found.finding)) urgent(found)
  }
}
const urgent = ({ finding, action, within_hours }: UrgentReading) =>
  props.running.change((to) =>
    to.conduct.urgent.push({ test: test.value, finding, action, within_hours, done: null, note: '' }),
  )
const skipping = ref(false)
const why = ref('')
watch(test, () => {
  skipping.value = false
  why.value = ''
})
function skip() {
  const reason = why.value.trim()
  if (!reason) return
  props.running.change((to) => Object.assign(props.running.begun(to, test.value), { skipped: true, reason }))
  skipping.value = false
}
const unskip = () =>
  props.running.change((to) =>
    Object.assign(props.running.begun(to, test.value), { skipped: false, reason: '' }),
  )
const wish = () => props.running.change(({ patient }) => (patient.wished = [...patient.wished, test.value]))
</script>

<template>
  <article class="test" data-test="examine-test">
    <section class="how">
      <h2 dir="auto">
        {{ sheet?.name ?? text.plan.list.gone }}
        <span v-if="variant && (planned.variant || (sheet?.variants.length ?? 0) > 1)" class="variant"
          >· {{ variant.name }}</span
        >
      </h2>
      <p v-if="planned.reason" class="muted" dir="auto">{{ planned.reason }}</p>
      <template v-if="asked.length">
        <h3 class="alarm">{{ words.askFirst }}</h3>
        <ExamineQuestions :questions="asked" :answers="answers" @say="running.answer" />
      </template>
      <p v-if="locked" class="failure" role="status" data-test="test-locked">{{ words.locked }}</p>
      <div v-if="out" class="out" data-test="test-out">
        <h3>{{ words.notNow }}</h3>
        <p v-if="fit?.left_out">
          <v-btn size="large" variant="outlined" data-test="wish-test" @click="wish">{{ words.wish }}</v-btn>
        </p>
        <p v-for="line in fitWords(fit?.reasons ?? [])" :key="line" dir="auto">{{ line }}</p>
        <p v-for="it in fit?.alternatives ?? []" :key="it.instead" dir="auto">
          <b>{{ words.instead }}:</b> {{ it.instead }}
          <template v-if="it.test">{{ text.plan.fit.alternative[it.test.fit.state](it.test.name) }}</template>
        </p>
      </div>
      <p v-if="!sheet" class="muted">{{ words.noSheet }}</p>
      <template v-else-if="variant && !out">
        <p v-for="it in cautions('precaution')" :key="it.text" dir="auto">
          <b>{{ words.care }}:</b> {{ it.text }} {{ it.instead }}
          <span class="small muted">{{ cautionNotes(it).reach }}</span>
        </p>
        <p class="position">
          <b>{{ words.position }}:</b>
          {{ variant.position ? `${positions[variant.position]}.` : '' }}
          <span v-if="variant.patient_position" dir="auto">{{ variant.patient_position }}</span>
        </p>
        <ol v-if="variant.steps.length" :aria-label="words.stepsTitle">
          <li v-for="(step, nth) in variant.steps" :key="nth" dir="auto">
            {{ step.text }}
            <span v-if="stepNotes(step, undefined).length" class="small muted"
              >({{ stepNotes(step, undefined).join(', ') }})</span
            >
          </li>
        </ol>
        <p v-if="variant.patient_script" class="say" dir="auto">
          <b>{{ words.say }}:</b> {{ variant.patient_script }}
        </p>
        <p v-for="it in positive" :key="it.text" dir="auto">
          <b>{{ words.positiveIf }}:</b> {{ it.text }}
        </p>
        <p v-if="!positive.length" dir="auto">
          <b>{{ words.positiveIf }}:</b> {{ sheet.positive_finding }}
        </p>
        <p v-for="it in cautions('stop_rule')" :key="it.text" class="alarm" dir="auto">
          <b>{{ words.stopRule }}:</b> {{ it.text }} {{ it.instead }} {{ deadline(it.within_hours) }}
        </p>
      </template>
    </section>
    <section v-if="!out" class="what">
      <AttemptEntry
        :key="test"
        :variant="variant"
        :affected-first="affectedFirst"
        :attempts="attempts"
        :disabled="locked || !!stands?.fit.stop"
        @record="record"
      />
      <AttemptList
        :attempts="attempts"
        :reading="reading"
        :pitfalls="pitfalls"
        @change="changeLast"
        @remove="remove"
      />
      <TryTable
        v-if="sheet?.interpretation.rows.length"
        :key="test"
        :table="sheet.interpretation"
        :title="words.measured"
        @read="read"
      />
      <div v-if="urgentFindings.length" class="urgent">
        <h3>{{ words.urgentHere }}</h3>
        <v-btn
          v-for="it in urgentFindings"
          :key="it.finding"
          color="error"
          variant="outlined"
          class="finding"
          data-test="urgent-found"
          @click="urgent(it)"
          ><span dir="auto">{{ words.found(it.finding) }}</span></v-btn
        >
      </div>
      <p v-if="said?.skipped" class="skip" dir="auto">
        {{ words.skipped }}: {{ said.reason }}
        <v-btn variant="text" @click="unskip">{{ words.unskip }}</v-btn>
      </p>
      <p v-else-if="skipping" class="skip">
        <v-text-field
          v-model="why"
          :label="words.skipWhy"
          density="compact"
          hide-details
          data-test="skip-why"
          @keydown.enter="skip"
        />
        <v-btn :disabled="!why.trim()" data-test="skip-keep" @click="skip">{{ words.skip }}</v-btn>
      </p>
      <v-btn
        v-else-if="!attempts.length"
        class="start"
        variant="text"
        data-test="skip-test"
        @click="skipping = true"
        >{{ words.skip }}</v-btn
      >
    </section>
  </article>
</template>

<style scoped>
.test {
  display: grid;
  grid-template-columns: minmax(0, 1.1fr) minmax(0, 1fr);
  gap: 20px 36px;
  align-items: start;
}
.how,
.what {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 10px;
}
h2 {
  font-size: 1.6rem;
}
.variant {
  font-size: 1.1rem;
  font-weight: 400;
}
.how {
  font-size: 1.18rem;
}
.how ol {
  padding-left: 1.4em;
}
.how li {
  margin-bottom: 6px;
}
.alarm {
  color: rgb(var(--v-theme-error));
}
.say {
  padding: 8px 14px;
  border-left: 3px solid rgb(var(--v-theme-primary));
}
.out {
  padding: 10px 14px;
  border: 1px dashed var(--line);
  border-radius: 6px;
}
.urgent {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
.urgent h3 {
  flex-basis: 100%;
}
.finding {
  height: auto;
  min-height: 44px;
  max-width: 100%;
  padding-block: 6px;
  white-space: normal;
  text-align: left;
}
.finding :deep(.v-btn__content) {
  white-space: normal;
}
.skip {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  align-items: center;
}
.start {
  justify-self: start;
}
@media (max-width: 1000px) {
  .test {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
