<script setup lang="ts">
import { mdiClose } from '@mdi/js'
import { computed, ref } from 'vue'

import { lr } from '@/areas/evidence/resultWords'
import ProbabilityAxis from '@/figures/ProbabilityAxis.vue'
import ProbabilityHandle from '@/figures/ProbabilityHandle.vue'
import ProbabilityRow from '@/figures/ProbabilityRow.vue'
import { probabilityScale } from '@/figures/probabilityScale'
import type { Crossing, PatientAnswer, PatientTest, RatioEstimate, ShareEstimate } from '@/shared/api/types'
import { percent, percentInterval, percentPoint, raises, supported } from '@/shared/format'
import IconButton from '@/shared/layout/IconButton.vue'
import { useQuestion } from '@/shared/question/useQuestion'
import { text } from '@/shared/text'
import { useWidth } from '@/shared/useWidth'

/** From before testing over each result to where they end, on one axis of probabilities by the logarithm of their odds. */
const props = defineProps<{
  answer: PatientAnswer
  /** A test whose results are only thought of. */
  thought: PatientTest | null
}>()
const emit = defineEmits<{ remove: [test: string] }>()

const words = text.likelihood.patient
const { preTest, range, thresholds, setPreTest } = useQuestion()
const cell = ref<HTMLElement | null>(null)
const width = useWidth(cell, 520)
const scale = computed(() => probabilityScale(width.value))

const before = computed<ShareEstimate>(() => {
  const [lower, upper] = range.value ?? [preTest.value, preTest.value]
  return { estimate: preTest.value, lower, upper }
})

interface Line {
  key: string
  name: string
  kind: 'positive' | 'negative'
  lr: RatioEstimate | null
  from: number
  to: ShareEstimate | null
  crossing: Crossing | null
  /** The test whose result can be taken back. */
  test: string | null
}
const nameOf = (id: string) => props.answer.tests.find((test) => test.test === id)?.name ?? ''
const kind = (positive: boolean) => (positive ? 'positive' : 'negative')
const found = computed<Line[]>(() => {
  let from = props.answer.pre_test.estimate
  // By the answer: a result that was just given or taken back is drawn when its answer is there.
  return props.answer.findings.map(({ test, positive, level }, nth) => {
    const step = props.answer.chain.steps[nth]!
    const line = {
      key: test,
      name: level ? words.levelFound(nameOf(test), level) : words.result(nameOf(test), positive === true),
      // A level stands on the side to which it moves the probability.
      kind: kind(level ? raises(step.lr) : positive === true) as Line['kind'],
      lr: step.lr ?? null,
      from,
      to: step.after ?? null,
      crossing: props.answer.crossings[nth] ?? null,
      test,
    }
    from = step.after ? supported(step.after) : from
    return line
  })
})
const thoughtOf = computed<Line[]>(() => {
  const { thought, answer } = props
  if (!thought?.lr_positive && !thought?.lr_negative) return []
  return [true, false].map((positive) => ({
    key: `thought-${positive}`,
    name: words.ifResult(thought.name, positive),
    kind: kind(positive) as Line['kind'],
    lr: (positive ? thought.lr_positive : thought.lr_negative) ?? null,
    from: answer.chain.end.estimate,
    to: (positive ? thought.after_positive : thought.after_negative) ?? null,
    crossing: (positive ? thought.crossing_positive : thought.crossing_negative) ?? null,
    test: null,
  }))
})
const leads = ({ to, crosses, whole_interval }: Crossing) =>
  crosses ? (whole_interval ? words.zones[to] : words.uncertain(words.zones[to])) : ''
const dependent = computed<ShareEstimate | null>(() => {
  const { dependent: to, correlation } = props.answer.chain.dependence ?? {}
  return to == null || !correlation ? null : { estimate: to, lower: to, upper: to }
})
</script>

<template>
  <table class="walk" data-test="walk">
    <caption class="visually-hidden">
      {{
        words.walk
      }}
    </caption>
    <thead>
      <tr>
        <td></td>
        <th scope="col" class="axis">
          <span class="visually-hidden">{{ words.axis }}</span>
          <div ref="cell"><ProbabilityAxis :scale="scale" :thresholds="thresholds" /></div>
        </th>
        <th scope="col" class="after small">{{ words.after }}</th>
      </tr>
    </thead>
    <tbody>
      <tr data-test="walk-before">
        <th scope="row">{{ words.before }}</th>
        <td class="picture">
          <ProbabilityRow
            :scale="scale"
            kind="before"
            :to="before"
            :thresholds="thresholds"
            aria-hidden="false"
          >
            <ProbabilityHandle :model-value="preTest" :scale="scale" @update:model-value="setPreTest" />
          </ProbabilityRow>
        </td>
        <td class="after">
          <b>{{ percent(preTest) }}</b>
          <small v-if="range">{{ percentInterval(before) }}</small>
          <small v-if="answer.before">{{ words.zones[answer.before] }}</small>
        </td>
      </tr>
      <tr
        v-for="line in [...found, ...thoughtOf]"
        :key="line.key"
        :class="{ thought: !line.test }"
        :data-test="line.test ? 'walk-found' : 'walk-thought'"
      >
        <th scope="row">
          <span class="name" dir="auto">{{ line.name }}</span>
          <IconButton
            v-if="line.test"
            class="no-print"
            :icon="mdiClose"
            :label="words.remove(nameOf(line.test))"
            @click="emit('remove', line.test)"
          />
          <small class="muted">{{ line.to && line.lr ? words.lr(lr(line.lr)) : words.notEstimable }}</small>
        </th>
        <td class="picture">
          <ProbabilityRow
            :scale="scale"
            :kind="line.kind"
            :from="line.from"
            :to="line.to"
            :thresholds="thresholds"
            :thought="!line.test"
          />
        </td>
        <td class="after" :class="line.kind">
          <template v-if="line.to">
            <b>{{ percentPoint(line.to) }}</b>
            <small>{{ percentInterval(line.to) }}</small>
            <small v-if="line.crossing?.crosses" class="zone">{{ leads(line.crossing) }}</small>
          </template>
          <span v-else class="muted">–</span>
        </td>
      </tr>
      <tr v-if="dependent && answer.chain.dependence" class="thought" data-test="walk-dependent">
        <th scope="row">
          <span class="name">{{
            words.depends(words.dependence.degree(answer.chain.dependence.correlation))
          }}</span>
        </th>
        <td class="picture">
          <ProbabilityRow
            :scale="scale"
            kind="before"
            :from="answer.chain.end.estimate"
            :to="dependent"
            :thresholds="thresholds"
            thought
          />
        </td>
        <td class="after">
          <b>{{ percent(dependent.estimate) }}</b>
        </td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.walk {
  width: 100%;
  border-collapse: collapse;
  table-layout: fixed;
}
tbody tr {
  border-top: 1px solid var(--line);
}
thead td,
tbody th {
  width: 27%;
}
th,
td {
  padding: 2px 6px 2px 0;
  text-align: left;
  font-weight: 400;
  vertical-align: middle;
}
th.axis,
td.picture {
  padding: 0;
}
.name {
  font-weight: 600;
}
.thought .name {
  font-weight: 400;
  font-style: italic;
}
th.after,
td.after {
  width: 108px;
  padding-right: 0;
  text-align: right;
}
.after b {
  font-size: 1.1rem;
}
.thought .after b {
  font-size: 1rem;
  font-weight: 600;
}
small {
  display: block;
  font-size: 0.75rem;
}
.after small {
  color: var(--muted);
}
.after small.zone {
  color: inherit;
  font-weight: 700;
}
/* On a phone the name stands on its own line, the way below it, the probability at its right. */
@media screen and (max-width: 600px) {
  .walk,
  thead,
  tbody {
    display: block;
  }
  tr {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 92px;
    align-items: center;
    padding-top: 4px;
  }
  thead td {
    display: none;
  }
  tbody th {
    grid-column: 1 / -1;
    width: auto;
  }
  th.after,
  td.after {
    width: auto;
  }
  tbody th small {
    display: inline;
    margin-left: 6px;
  }
}
.positive b {
  color: var(--raises);
}
.negative b {
  color: var(--lowers);
}
</style>
