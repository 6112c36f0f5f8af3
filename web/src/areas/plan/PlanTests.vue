<script setup lang="ts">
import { mdiArrowDown, mdiArrowUp, mdiClose, mdiDragVertical } from '@mdi/js'
import { useSortable } from '@vueuse/integrations/useSortable'
import { computed, nextTick, ref } from 'vue'

import { lr } from '@/areas/evidence/resultWords'
import { positions } from '@/areas/catalogue/sheetWords'
import type { FitView, PlanFitAnswer, PlanOrderAnswer } from '@/shared/api/types'
import IconButton from '@/shared/layout/IconButton.vue'
import SheetLink from '@/shared/question/SheetLink.vue'
import { text } from '@/shared/text'
import { byPosition, type PlanQuestion, type PlanTest } from './planDraft'
import { fitWords, reasonWords } from './planWords'

/** The tests of a plan in their order, grouped by the patient's position; each with why it stands there and what it adds. */
const props = defineProps<{
  tests: PlanTest[]
  questions: PlanQuestion[]
  answer: PlanOrderAnswer | null
  /** How they fit a patient, if one is asked about. */
  fit?: PlanFitAnswer | null
  name: (test: string) => string
  /** For whom the plan is, where it says so. */
  such?: string
  editable?: boolean
}>()
const emit = defineEmits<{ move: [from: number, to: number]; remove: [place: number] }>()

const words = text.plan.list
/** What was answered of each test, as long as it was asked of these tests. */
const rows = computed(() =>
  props.tests.map((planned, at) => {
    const said = props.answer?.tests.find((it) => it.test === planned.test) ?? null
    const same = props.answer?.tests[at]?.test === planned.test
    const reasons = same ? (props.answer?.own.reasons[at] ?? []) : []
    const fit = props.fit?.tests.find((it) => it.test === planned.test) ?? null
    return {
      planned,
      said,
      fit,
      position: said?.position ?? null,
      because: reasonWords(reasons, (of) => props.name(props.answer?.tests[of]?.test ?? '')),
    }
  }),
)
/** Where enough is known after results of one kind only: after so many of the tests that have figures for a question. */
const enough = computed(() => {
  const marks = new Map<string, string[]>()
  for (const [nth, { sequence }] of (props.answer?.questions ?? []).entries()) {
    const told = (props.answer?.tests ?? []).filter((it) =>
      it.worth.some((one) => one.question === nth && one.adds != null),
    )
    const mark = (after: number | null | undefined, said: string) => {
      const test = after ? told[after - 1]?.test : undefined
      if (test) marks.set(test, [...(marks.get(test) ?? []), said])
    }
    const { condition, above } = props.questions[nth] ?? {}
    const of = props.questions.length > 1 ? `${words.for(condition ?? '')} ` : ''
    mark(sequence?.enough_negative, of + words.enoughHere.negative)
    mark(
      sequence?.enough_positive,
      of + words.enoughHere.positive(text.plan.questions.actions[above ?? 'treat']),
    )
  }
  return marks
})
const isOut = (fit: FitView | null) => !!fit && (fit.left_out || fit.state === 'not_now')
/** In their positions; what is not done now stands below, so that nothing is left out unseen. */
const groups = computed(() => {
  const placed = rows.value.map((row, place) => ({ ...row, place }))
  const done = byPosition(placed.filter((row) => !isOut(row.fit))).map(({ position, tests }) => ({
    title: position ? positions[position] : words.position,
    tests,
  }))
  const out = placed.filter((row) => isOut(row.fit))
  return out.length ? [...done, { title: text.plan.fit.notNow, tests: out }] : done
})
/** Line by line: what must be asked first, what keeps it back, what asks for care. */
function fitSaid(fit: FitView): string[] {
  const said = text.plan.fit
  if (fit.left_out) return [said.leftOut]
  const lines = fitWords(fit.reasons)
  if (!lines.length) return fit.state === 'not_now' ? [said.gone] : []
  return [`${said.states[fit.state]} ${lines[0]}`.trim(), ...lines.slice(1)]
}
const irritation = (value: number | null | undefined) =>
  value == null ? null : (words.irritation[Math.round(value)] ?? null)
const marks = (said: (typeof rows.value)[number]['said']) =>
  said
    ? [
        said.one_attempt ? words.attempt : null,
        irritation(said.irritation),
        said.minutes == null ? null : words.minutes(said.minutes),
      ].filter((it) => it !== null)
    : []

const list = ref<HTMLElement | null>(null)
if (props.editable)
  useSortable(list, [], {
    handle: '.handle',
    draggable: '.planned',
    animation: 0,
    onEnd: (event: {
      item: HTMLElement
      from: HTMLElement
      oldDraggableIndex?: number
      newDraggableIndex?: number
    }) => {
      const { oldDraggableIndex: from, newDraggableIndex: to } = event
      if (from === undefined || to === undefined || from === to) return
      // The list is drawn anew from the plan: what the hand left behind goes back first.
      const all = [...event.from.querySelectorAll('.planned')].filter((it) => it !== event.item)
      event.from.insertBefore(event.item, all[from] ?? null)
      emit('move', from, to)
    },
  })
async function step(place: number, by: number) {
  emit('move', place, place + by)
  await nextTick()
  // The hand stays on the test that it moves.
  const way = by < 0 ? 'earlier' : 'later'
  list.value?.querySelector<HTMLElement>(`[data-place="${place + by}"] .${way}`)?.focus()
}
</script>

<template>
  <div ref="list" class="list" data-test="plan-tests">
    <template v-for="(group, at) in groups" :key="`${group.title} ${at}`">
      <h3 class="position">{{ group.title }}</h3>
      <div
        v-for="it in group.tests"
        :key="it.planned.test"
        :class="it.fit && !it.fit.left_out ? it.fit.state : ''"
        class="planned"
        :data-place="it.place"
        data-test="planned"
      >
        <span class="number">
          <v-icon v-if="editable" class="handle" :icon="mdiDragVertical" size="18" :title="words.drag" />
          {{ it.place + 1 }}
        </span>
        <div class="what">
          <p class="name">
            <b dir="auto">{{ name(it.planned.test) }}</b>
            <span v-if="it.planned.variant" class="small" dir="auto"> · {{ it.planned.variant }}</span>
            <span v-if="it.planned.optional" class="small muted"> · {{ words.optionalShort }}</span>
            <SheetLink
              v-if="it.said?.name"
              class="small no-print sheet"
              :test="it.planned.test"
              :aria-label="words.sheetOf(name(it.planned.test))"
              >{{ words.sheet }}</SheetLink
            >
          </p>
          <p v-if="it.planned.reason" class="pre-line" dir="auto">{{ it.planned.reason }}</p>
          <p v-if="it.because.length" class="small" data-test="because">{{ it.because.join('; ') }}</p>
          <p v-if="marks(it.said).length" class="small muted">{{ marks(it.said).join(' · ') }}</p>
          <p v-for="worth in it.said?.worth ?? []" :key="worth.question" class="small" data-test="worth">
            <span v-if="questions.length > 1" dir="auto">{{
              words.for(questions[worth.question]?.condition ?? '')
            }}</span>
            LR+ {{ lr(worth.lr_positive) }}, LR− {{ lr(worth.lr_negative) }}
            <template v-if="worth.adds != null">
              · {{ words.adds(worth.adds)
              }}<template v-if="worth.needed != null && worth.needed < 0.995"
                >, {{ words.needed(worth.needed) }}</template
              ></template
            >
            <template v-else-if="worth.alone != null"> · {{ words.alone(worth.alone) }}</template>
            <span v-if="such && worth.matching != null && worth.studies" class="muted" data-test="matching">
              · {{ words.matching(worth.matching, worth.studies, such) }}</span
            >
          </p>
          <p
            v-for="mark in enough.get(it.planned.test) ?? []"
            :key="mark"
            class="small"
            dir="auto"
            data-test="enough"
          >
            {{ mark }}
          </p>
          <p v-if="it.said && !it.said.worth.some((one) => one.lr_positive)" class="small muted">
            {{ words.noFigures }}
          </p>
          <template v-if="it.fit">
            <p v-for="line in fitSaid(it.fit)" :key="line" class="small fit" dir="auto" data-test="fit-said">
              {{ line }}
            </p>
            <p
              v-for="other in it.fit.alternatives"
              :key="other.instead"
              class="small"
              dir="auto"
              data-test="alternative"
            >
              {{ text.plan.fit.insteadWhen(other.situation, text.plan.fit.instead(other.instead)) }}
              <template v-if="other.test">{{
                text.plan.fit.alternative[other.test.fit.state](other.test.name)
              }}</template>
            </p>
          </template>
          <slot :place="it.place" :test="it.planned" :said="it.said" />
        </div>
        <span v-if="editable" class="tools">
          <IconButton
            class="earlier"
            :icon="mdiArrowUp"
            :disabled="it.place === 0"
            :label="words.up(name(it.planned.test))"
            @click="step(it.place, -1)"
          />
          <IconButton
            class="later"
            :icon="mdiArrowDown"
            :disabled="it.place === tests.length - 1"
            :label="words.down(name(it.planned.test))"
            @click="step(it.place, 1)"
          />
          <IconButton
            :icon="mdiClose"
            :label="words.remove(name(it.planned.test))"
            @click="emit('remove', it.place)"
          />
        </span>
      </div>
    </template>
  </div>
</template>

<style scoped>
.position {
  margin-top: 14px;
  padding-bottom: 3px;
  color: var(--muted);
  font-family: var(--font-text);
  font-size: 0.875rem;
  border-bottom: 1px solid var(--line);
}
.position::first-letter {
  text-transform: uppercase;
}
.planned {
  display: grid;
  grid-template-columns: 3em minmax(0, 1fr) auto;
  gap: 0 8px;
  padding: 8px 0;
  border-bottom: 1px solid var(--line);
  break-inside: avoid;
}
.number {
  font-weight: 600;
  white-space: nowrap;
}
.handle {
  color: var(--muted);
  cursor: grab;
}
.what {
  display: grid;
  gap: 2px;
}
.fit {
  font-weight: 600;
}
.not_now .fit,
.locked .fit {
  color: rgb(var(--v-theme-error));
}
.not_now .name b {
  font-weight: 400;
  text-decoration: line-through;
}
.sheet {
  margin-left: 8px;
}
@media screen and (max-width: 600px) {
  .planned {
    grid-template-columns: 2.6em minmax(0, 1fr);
  }
  .tools {
    grid-column: 2;
  }
  .sheet {
    display: inline-block;
    padding: 10px 0;
  }
}
</style>
