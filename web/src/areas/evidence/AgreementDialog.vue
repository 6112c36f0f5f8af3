<script setup lang="ts">
import { computed, ref } from 'vue'

import { askAgreement } from '@/shared/api/queries'
import type { AgreementInput, AgreementView, FieldError, FiguresInput, Weights } from '@/shared/api/types'
import { coefficient, coefficientInterval } from '@/shared/format'
import SampleMark from '@/shared/layout/SampleMark.vue'
import { text } from '@/shared/text'
import { typedNumber } from '@/shared/typedNumber'
import { useSaving } from '@/shared/useSaving'
import { addAgreement, agreementInput, correctAgreement } from './agreementActions'
import AgreementFigures from './AgreementFigures.vue'
import { agreementNotes } from './agreementWords'
import KeptDialog from './KeptDialog.vue'
import { pastedCells, shownCells } from './pastedCells'
import { newStudy, studyBody, studyDraft } from './studyDraft'
import StudyFields from './StudyFields.vue'
import { useKeptForm } from './useKeptForm'
import { useLiveAnswer } from '@/shared/useLiveAnswer'

/** Adds an agreement result, or corrects one; what its figures say is answered while they are typed. */
const open = defineModel<boolean>('open', { required: true })
const props = defineProps<{ testId: string; agreement: AgreementView | null }>()

type Kind = FiguresInput['kind']
const PRINTED = ['value', 'lower', 'upper', 'se', 'subjects', 'raters'] as const
type Printed = Record<(typeof PRINTED)[number], string>

const blank = () => ({
  between: 'examiners' as AgreementInput['between'],
  finding: '',
  examiners: '',
  interval: '',
  page: '',
  note: '',
})
const noneprinted = (): Printed => ({ value: '', lower: '', upper: '', se: '', subjects: '', raters: '' })
const study = ref(newStudy())
const words = ref(blank())
const kind = ref<Kind>('table')
const pasted = ref('')
const weights = ref<Weights>('none')
const unit = ref('')
const which = ref<'kappa' | 'icc'>('kappa')
const printed = ref(noneprinted())

const { version, failure, saving, begin, of, save } = useSaving(text.agreement.conflict, (what, now) => {
  if (what === 'study') study.value.version = now
  return what === 'study'
})
function fill() {
  const given = props.agreement
  begin(given?.version)
  study.value = given ? studyDraft(given.study, 1) : newStudy()
  words.value = blank()
  kind.value = 'table'
  pasted.value = unit.value = ''
  weights.value = 'none'
  which.value = 'kappa'
  printed.value = noneprinted()
  if (!given) return
  const { figures, ...rest } = agreementInput(given)
  words.value = { ...blank(), ...rest }
  if (!figures) return
  kind.value = figures.kind
  if ('rows' in figures) pasted.value = shownCells(figures.rows)
  if ('weights' in figures) weights.value = figures.weights ?? 'none'
  if (figures.kind === 'measurements') unit.value = figures.unit ?? ''
  if (figures.kind === 'reported') {
    which.value = figures.coefficient
    for (const name of PRINTED) printed.value[name] = figures[name]?.toString() ?? ''
  }
}

/** A comma is what many reports print for the decimal point. */
const unread = computed(() => PRINTED.filter((name) => Number.isNaN(typedNumber(printed.value[name]))))
const figures = computed<FiguresInput>(() => {
  const rows = pastedCells(pasted.value)
  if (kind.value === 'reported') {
    const [value, lower, upper, se, subjects, raters] = PRINTED.map((name) =>
      typedNumber(printed.value[name]),
    )
    return { kind: 'reported', coefficient: which.value, value, lower, upper, se, subjects, raters }
  }
  if (kind.value === 'measurements') return { kind: 'measurements', rows, unit: unit.value }
  return { kind: kind.value, rows, weights: weights.value }
})
const { answer, faults } = useLiveAnswer(
  figures,
  (now) => ('rows' in now ? now.rows.length > 0 : now.value != null && !unread.value.length),
  askAgreement,
)

const kept = useKeptForm({
  open,
  what: () => 'agreement' as const,
  place: () => props.agreement?.id ?? props.testId,
  fill,
  of: [study, words, kind, pasted, weights, unit, which, printed],
  typed: () => ({
    study: study.value,
    words: words.value,
    kind: kind.value,
    pasted: pasted.value,
    weights: weights.value,
    unit: unit.value,
    which: which.value,
    printed: printed.value,
  }),
  take: (left) => {
    study.value = { ...newStudy(), ...left.study }
    words.value = { ...blank(), ...left.words }
    kind.value = left.kind
    pasted.value = left.pasted
    weights.value = left.weights
    unit.value = left.unit
    which.value = left.which
    printed.value = { ...noneprinted(), ...left.printed }
  },
  version,
})

/** Where a cell stands, as people count, and what is wrong with it. */
function cellFault({ field, value, message, remedy }: FieldError): string {
  const [row, column] = [...field.matchAll(/\[(\d+)\]/g)].map((found) => Number(found[1]) + 1)
  const place = row ? `${text.agreement.place(row, column)}${value ? ` (“${value}”)` : ''}: ` : ''
  return `${place}${message} ${remedy}`
}
const SHOWN = 5
const cellFaults = computed(() => {
  const found = faults.value.filter((fault) => fault.field.startsWith('figures.rows')).map(cellFault)
  return found.length > SHOWN ? [...found.slice(0, SHOWN), text.agreement.more(found.length - SHOWN)] : found
})
/** What was saved is refused with the same words as what is typed; only one of them is shown. */
const rowFaults = computed(() => (cellFaults.value.length ? cellFaults.value : of('agreement.figures.rows')))
const printedFault = (name: (typeof PRINTED)[number]) => {
  if (unread.value.includes(name)) return text.agreement.noNumber
  const live = faults.value.find((fault) => fault.field === `figures.${name}`)
  return live ? `${live.message} ${live.remedy}` : of(`agreement.figures.${name}`)
}
/** Near misses are there between two raters, from three categories on; until the cells are read, there may be. */
const graded = computed(() => {
  if (kind.value !== 'table' && kind.value !== 'ratings') return false
  const detail = answer.value?.detail
  return !detail || (detail.kind === 'two_raters' && detail.specific_agreement.length > 2)
})
const kinds = Object.entries(text.agreement.kinds).map(([value, title]) => ({ value, title }))
const betweens = Object.entries(text.agreement.betweens).map(([value, title]) => ({ value, title }))
const weightings = Object.entries(text.agreement.weights).map(([value, title]) => ({ value, title }))
const coefficients = Object.entries(text.agreement.printedKinds).map(([value, title]) => ({ value, title }))

async function submit() {
  if (kind.value === 'reported' && unread.value.length) return
  const agreement: AgreementInput = { ...words.value, figures: figures.value }
  const body = { ...studyBody(study.value), agreement }
  const given = props.agreement
  const saved = await save(() =>
    given ? correctAgreement(given, version.value, body) : addAgreement(props.testId, body),
  )
  if (saved) await kept.saved()
}
</script>

<template>
  <KeptDialog
    v-model:open="open"
    name="agreement"
    :title="agreement ? text.agreement.editTitle : text.agreement.addTitle"
    :save-label="text.agreement.save"
    :correcting="Boolean(agreement)"
    :failure="failure"
    :saving="saving"
    :kept="kept"
    :width="980"
    @save="submit"
  >
    <div class="halves">
      <div>
        <StudyFields v-model="study" :of="of" />
        <v-select v-model="words.between" :items="betweens" :label="text.agreement.between" />
        <v-text-field
          v-model="words.finding"
          :label="text.agreement.finding"
          :hint="text.agreement.findingHint"
          persistent-hint
          :error-messages="of('agreement.finding')"
          dir="auto"
          data-test="finding"
        />
        <v-text-field
          v-model="words.examiners"
          :label="text.agreement.examiners"
          :error-messages="of('agreement.examiners')"
          dir="auto"
        />
        <v-text-field
          v-model="words.interval"
          :label="text.agreement.interval"
          :error-messages="of('agreement.interval')"
          dir="auto"
        />
        <v-text-field
          v-model="words.page"
          :label="text.study.page"
          :placeholder="text.study.pageHint"
          :error-messages="of('agreement.page')"
          dir="auto"
        />
        <v-textarea
          v-model="words.note"
          :label="text.study.note"
          rows="1"
          :error-messages="of('agreement.note')"
          dir="auto"
        />
      </div>
      <div>
        <v-select v-model="kind" :items="kinds" :label="text.agreement.kind" data-test="agreement-kind" />
        <template v-if="kind === 'reported'">
          <v-select v-model="which" :items="coefficients" :label="text.agreement.coefficient" />
          <div class="printed">
            <v-text-field
              v-for="name in PRINTED"
              :key="name"
              v-model="printed[name]"
              :label="text.agreement.printed[name]"
              :error-messages="printedFault(name)"
              inputmode="decimal"
              autocomplete="off"
              :data-test="`agreement-${name}`"
            />
          </div>
        </template>
        <template v-else>
          <v-textarea
            v-model="pasted"
            class="cells"
            :label="text.agreement.cells"
            :hint="text.agreement.cellHints[kind]"
            persistent-hint
            rows="5"
            max-rows="12"
            :spellcheck="false"
            :error-messages="rowFaults"
            :max-errors="SHOWN + 1"
            data-test="agreement-cells"
          />
          <v-select
            v-if="graded"
            v-model="weights"
            :items="weightings"
            :label="text.agreement.weighting"
            data-test="weights"
          />
          <v-text-field
            v-if="kind === 'measurements'"
            v-model="unit"
            :label="text.agreement.unit"
            :error-messages="of('agreement.figures.unit')"
            data-test="unit"
          />
        </template>
        <section class="live" aria-live="polite" data-test="agreement-live">
          <h3>{{ text.agreement.live }} <SampleMark v-if="agreement?.sample" /></h3>
          <template v-if="answer">
            <p v-if="answer.headline" class="headline">
              {{ text.agreement.measures[answer.headline.measure] }}
              <b>{{ coefficient(answer.headline.estimate.estimate) }}</b>
              <span class="muted beside">
                ({{ coefficientInterval(answer.headline.estimate) }}),
                {{ text.agreement.sizes[answer.headline.size.word] }}
                <span class="small">({{ text.agreement.schemes[answer.headline.size.scheme] }})</span>
              </span>
            </p>
            <p class="small muted">
              {{ text.agreement.who(words.between, answer.raters, answer.subjects) }}
            </p>
            <p v-for="note in agreementNotes(answer)" :key="note" class="small note">{{ note }}</p>
            <AgreementFigures :answer="answer" :unit="unit" />
          </template>
          <p v-else class="muted small">{{ text.agreement.liveEmpty }}</p>
        </section>
      </div>
    </div>
  </KeptDialog>
</template>

<style scoped>
.printed {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 10px 8px;
  align-items: start;
}
.cells :deep(textarea) {
  font-family: ui-monospace, monospace;
  font-size: 0.85rem;
  tab-size: 10;
}
.beside {
  margin-left: 6px;
}
.headline b {
  font-size: 1.15rem;
}
.note {
  font-weight: 600;
}
.live {
  margin-top: 4px;
}
</style>
