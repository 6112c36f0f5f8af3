<script setup lang="ts">
import { mdiArrowLeft, mdiArrowRight, mdiUndo } from '@mdi/js'
import { computed, watchEffect } from 'vue'
import { useRouter } from 'vue-router'

import PlanStanding from '@/areas/plan/PlanStanding.vue'
import { deadline } from '@/areas/plan/planWords'
import { useSheets } from '@/shared/api/queries'
import type { AffectedSide, ScreeningAnswer } from '@/shared/api/types'
import CautionLine from '@/shared/layout/CautionLine.vue'
import SampleMark from '@/shared/layout/SampleMark.vue'
import StateNotice from '@/shared/layout/StateNotice.vue'
import WaitLine from '@/shared/layout/WaitLine.vue'
import { outage } from '@/shared/outage'
import { useAddress } from '@/shared/question/useAddress'
import { text } from '@/shared/text'
import { useShortcuts } from '@/shared/useShortcuts'
import ConclusionForm from './ConclusionForm.vue'
import ExamineQuestions from './ExamineQuestions.vue'
import ExamineTest from './ExamineTest.vue'
import { nameIn } from './examinationWords'
import ProbabilityRow from './ProbabilityRow.vue'
import UrgentAlert from './UrgentAlert.vue'
import { useExamination } from './useExamination'

/** An examination that is carried out: screening, one test at a time, the conclusion; over the whole screen. */
const props = defineProps<{ examination: string }>()

const words = text.examination.run
const router = useRouter()
const running = useExamination(props.examination)
const { view, entries, faults } = running
const stands = computed(() => view.value?.stands ?? null)
const tests = computed(() => view.value?.plan.tests ?? [])
const sheets = useSheets(() => tests.value.map((it) => String(it.test)))
const names = computed(() =>
  tests.value.map((it) => ({ value: String(it.test), title: view.value ? nameIn(view.value, it.test) : '' })),
)

const BEFORE = 'before'
const END = 'end'
/** Where one is: in the address, so that a reload comes back to it. */
const { one, change: goTo } = useAddress()
const steps = computed(() => [BEFORE, ...names.value.map((it) => it.value), END])
const at = computed(() => (steps.value.includes(one('at')) ? one('at') : BEFORE))
const go = (to: string | undefined) => to && void goTo({ at: to === BEFORE ? undefined : to })
const nth = computed(() => steps.value.indexOf(at.value))
const current = computed(() => tests.value[nth.value - 1] ?? null)
const isOut = (test: string) => {
  const fit = stands.value?.fit.tests.find((it) => it.test === test)
  return !!fit && (fit.left_out || fit.state === 'not_now')
}
/** The next step that is done. */
const following = computed(() => steps.value.slice(nth.value + 1).find((it) => !isOut(it)))
const before = computed(() => steps.value.slice(0, Math.max(0, nth.value)).findLast((it) => !isOut(it)))
const titleOf = (step: string | undefined) =>
  step === BEFORE
    ? words.before
    : step === END
      ? words.end
      : (names.value.find((it) => it.value === step)?.title ?? '')
const stateOf = (step: string) => {
  const said = running.of(step)
  if (said?.attempts.length)
    return said.attempts.some((it) => it.side !== 'sound') ? words.done : words.soundOnly
  if (said?.skipped) return words.skipped
  return isOut(step) ? words.out : ''
}
/** What the core would do next, where that is another test than the plan's order has next. */
const advised = computed(() => {
  const next = stands.value?.standing.next
  const test = next == null ? undefined : String(tests.value[next]?.test)
  return test && test !== following.value && test !== at.value ? test : undefined
})
const enough = computed(() => stands.value?.standing.end === 'finished')
/** Why the next test is worth its time. */
const worth = computed(() => {
  const place = names.value.findIndex((it) => it.value === following.value)
  const standing = stands.value?.standing
  if (!standing || place < 0) return []
  return standing.questions.flatMap((it) => {
    const open = it.open.find((test) => test.test === place)
    if (!open || it.state !== 'open') return []
    const condition = standing.questions.length > 1 ? it.condition : ''
    return text.plan.standing.open(
      condition,
      standing.minutes[place] ?? null,
      open.information.toFixed(2),
      open.changes,
    )
  })
})

const answer = (key: string, to: ScreeningAnswer) =>
  running.change(({ patient }) => {
    const { [key]: said, ...others } = patient.answers
    patient.answers = said === to ? others : { ...others, [key]: to }
  })
const SIDES = Object.keys(text.examination.affectedSides) as AffectedSide[]
/** What was asked about otherwise, as the panel of results reads it. */
const asked = {
  asked: computed(() => entries.value?.conduct.asked ?? []),
  setAsked: (condition: string, on: boolean) =>
    running.change(({ conduct }) => {
      const others = conduct.asked.filter((it) => it !== condition)
      conduct.asked = on ? [...others, condition] : others
    }),
}
const left = computed(() => {
  const fits = stands.value?.fit.tests ?? []
  return fits.filter((it) => !running.of(it.test)?.attempts.length)
})
const stop = computed(() => stands.value?.fit.stop ?? null)
const leave = () => router.push({ name: 'examination', params: { examination: props.examination } })
async function finish() {
  if (await running.finish()) await leave()
}
const kept = computed(() => {
  if (running.notHere.value && running.unsent.value) return words.notHere
  if (!running.unsent.value) return words.kept
  return outage.cause ? words.unsent : words.keeping
})
useShortcuts({
  ArrowRight: () => go(following.value),
  ArrowLeft: () => go(before.value),
  u: running.undo,
})
watchEffect(() => {
  if (view.value?.finished_at || (view.value && !view.value.own)) void leave()
})
watchEffect(() => (document.title = `${view.value?.label ?? text.examination.title} – Pruvex`))
</script>

<template>
  <main id="content" class="page" data-test="examine">
    <StateNotice
      v-if="running.failure.value && !view"
      :title="text.examination.failedOne"
      :detail="String((running.failure.value as Error).message)"
      tone="error"
    >
      <v-btn @click="running.load()">{{ text.layout.retry }}</v-btn>
      <v-btn variant="text" :to="{ name: 'examinations' }">{{ text.examination.back }}</v-btn>
    </StateNotice>
    <WaitLine v-else-if="!view || !entries" />
    <template v-else>
      <header>
        <div class="top">
          <h1>
            {{ view.label }} <SampleMark v-if="view.sample" />
            <span class="small muted plan" dir="auto">{{ view.plan.title }}</span>
          </h1>
          <span class="small muted" role="status" data-test="kept">{{ kept }}</span>
          <v-btn
            variant="text"
            :prepend-icon="mdiUndo"
            :disabled="!running.canUndo.value"
            data-test="undo"
            @click="running.undo"
            >{{ words.undo }}</v-btn
          >
          <v-btn variant="text" data-test="leave" @click="leave">{{ words.leave }}</v-btn>
        </div>
        <v-select
          class="narrow"
          :model-value="at"
          :items="
            steps.map((value) => ({
              value,
              title: [titleOf(value), stateOf(value)].filter(Boolean).join(', '),
            }))
          "
          :label="words.steps"
          density="compact"
          hide-details
          @update:model-value="go($event)"
        />
        <nav :aria-label="words.steps">
          <button
            v-for="step in steps"
            :key="step"
            type="button"
            :aria-current="step === at ? 'step' : undefined"
            :class="{ out: isOut(step) }"
            data-test="examine-step"
            @click="go(step)"
          >
            <span dir="auto">{{ titleOf(step) }}</span>
            <span v-if="stateOf(step)" class="small muted">{{ stateOf(step) }}</span>
          </button>
        </nav>
        <ProbabilityRow v-if="stands" :standing="stands.standing" :behind="!!outage.cause" />
      </header>
      <section v-if="running.conflict.value" class="notice" role="alert" data-test="examine-conflict">
        <b>{{ words.conflict }}</b> {{ words.conflictDetail }}
        <v-btn variant="outlined" @click="running.keepMine">{{ words.mine }}</v-btn>
        <v-btn variant="outlined" @click="running.takeTheirs">{{ words.theirs }}</v-btn>
      </section>
      <section v-if="stop" class="notice" role="alert" data-test="examine-stop">
        <h2>{{ words.stopAll }}</h2>
        <p dir="auto">{{ stop.caution }}</p>
        <p dir="auto">
          <b>{{ stop.instead }}</b> {{ deadline(stop.within_hours) }}
        </p>
      </section>
      <section v-if="faults.length && at !== END" class="notice" role="alert">
        <b>{{ words.refused }}</b>
        <p v-for="it in faults" :key="it.field">{{ it.message }} {{ it.remedy }}</p>
      </section>
      <div class="content">
        <section v-if="at === BEFORE" data-test="examine-before">
          <h2>{{ words.beforeTitle }}</h2>
          <p class="muted">{{ words.beforeAbout }}</p>
          <p class="affected">
            <span :id="`affected-${view.id}`">{{ text.examination.affected }}</span>
            <v-btn-toggle
              :model-value="entries.conduct.affected_side ?? undefined"
              :aria-labelledby="`affected-${view.id}`"
              color="primary"
              divided
              @update:model-value="running.change(({ conduct }) => (conduct.affected_side = $event ?? null))"
            >
              <v-btn v-for="it in SIDES" :key="it" :value="it" :data-test="`affected-${it}`">{{
                text.examination.affectedSides[it]
              }}</v-btn>
            </v-btn-toggle>
          </p>
          <ExamineQuestions
            v-if="stands?.fit.questions.length"
            :questions="stands.fit.questions"
            :answers="entries.patient.answers"
            @say="answer"
          />
          <p v-else class="muted">{{ words.noQuestions }}</p>
        </section>
        <section v-else-if="at === END" class="end" data-test="examine-end">
          <h2>{{ words.endTitle }}</h2>
          <PlanStanding
            v-if="stands"
            :standing="stands.standing"
            :state="asked"
            :name="(place) => names[place]?.title ?? ''"
            :locked="(place) => stands?.fit.tests[place]?.state === 'locked'"
          />
          <section v-if="left.length">
            <h3>{{ text.examination.conclude.left }}</h3>
            <p v-for="it in left" :key="it.test" class="small" dir="auto">
              {{ titleOf(it.test) }}: {{ stateOf(it.test) || text.examination.record.notDone }}
              {{ running.of(it.test)?.reason }}
            </p>
          </section>
          <ConclusionForm
            :conduct="entries.conduct"
            :faults="faults"
            :suggested="stands?.repeats ?? []"
            :tests="names"
            @change="(work) => running.change(({ conduct }) => work(conduct))"
          />
          <section v-if="faults.length" role="alert" class="failure" data-test="finish-faults">
            <b>{{ text.examination.conclude.faults }}</b>
            <p v-for="it in faults" :key="it.field">{{ it.message }} {{ it.remedy }}</p>
          </section>
          <p class="small muted">{{ text.examination.conclude.finishAbout }}</p>
          <v-btn
            class="finish"
            color="primary"
            variant="flat"
            size="large"
            data-test="finish"
            @click="finish"
            >{{ text.examination.conclude.finish }}</v-btn
          >
        </section>
        <ExamineTest
          v-else-if="current"
          :running="running"
          :planned="current"
          :place="nth - 1"
          :stands="stands"
          :sheet="sheets[nth - 1]?.data"
          :affected-first="view.plan.affected_side_first"
        />
      </div>
      <footer>
        <v-btn
          size="large"
          variant="text"
          :prepend-icon="mdiArrowLeft"
          :disabled="!before"
          data-test="previous"
          @click="go(before)"
          >{{ words.previous }}</v-btn
        >
        <span class="why small">
          <span v-if="enough" data-test="enough">{{ words.enough }}</span>
          <template v-else>
            <span v-for="line in worth" :key="line" dir="auto">{{ line }}</span>
            <v-btn v-if="advised" class="advised" variant="text" data-test="advised" @click="go(advised)">{{
              words.changes(titleOf(advised))
            }}</v-btn>
          </template>
        </span>
        <v-btn
          v-if="following"
          size="large"
          color="primary"
          :variant="at === END ? 'text' : 'flat'"
          :append-icon="mdiArrowRight"
          data-test="next"
          @click="go(following)"
          >{{ words.nextIs(titleOf(following)) }}</v-btn
        >
      </footer>
      <p class="small muted keys">{{ words.keys }}</p>
      <CautionLine />
      <UrgentAlert :running="running" />
    </template>
  </main>
</template>

<style scoped>
.page {
  display: grid;
  gap: 12px;
  max-width: 1400px;
  margin: 0 auto;
  padding: 12px 24px 24px;
}
.top {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  align-items: center;
}
h1 {
  flex: 1 1 260px;
  font-size: 1.3rem;
}
.plan {
  margin-left: 10px;
  font-weight: 400;
}
nav {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin: 6px 0;
}
nav button {
  display: flex;
  gap: 6px;
  align-items: center;
  background: rgb(var(--v-theme-surface));
  min-height: 44px;
  padding: 4px 12px;
  border: 1px solid var(--line);
  border-radius: 6px;
  text-align: left;
}
nav button[aria-current] {
  border: 2px solid rgb(var(--v-theme-primary));
  font-weight: 700;
}
nav button.out > span:first-child {
  text-decoration: line-through;
}
.notice {
  display: grid;
  gap: 6px;
  justify-items: start;
  padding: 10px 16px;
  border: 2px solid rgb(var(--v-theme-error));
  border-radius: 6px;
}
.content {
  padding: 12px 0;
  border-top: 1px solid var(--line);
}
.affected {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 16px;
  align-items: center;
  margin: 10px 0;
}
.finish {
  justify-self: start;
}
.end {
  display: grid;
  gap: 12px;
  max-width: 1000px;
}
footer {
  position: sticky;
  z-index: 5;
  bottom: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 6px 16px;
  align-items: center;
  justify-content: space-between;
  padding: 10px 0;
  background: rgb(var(--v-theme-background));
  border-top: 1px solid var(--line);
}
.advised {
  height: auto;
  min-height: 36px;
  justify-content: start;
  padding: 4px 0;
  text-align: left;
}
.advised :deep(.v-btn__content) {
  white-space: normal;
}
.narrow {
  display: none;
}
.why {
  display: grid;
  flex: 1 1 240px;
}
@media (hover: none) {
  .keys {
    display: none;
  }
}
@media (max-width: 600px) {
  .page {
    padding: 8px 12px 16px;
  }
  footer {
    position: static;
  }
  nav {
    display: none;
  }
  .narrow {
    display: grid;
  }
}
</style>
