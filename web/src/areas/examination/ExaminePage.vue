<script setup lang="ts">
import { mdiArrowLeft, mdiArrowRight, mdiUndo } from '@mdi/js'
import { computed, watchEffect } from 'vue'
import { useRouter } from 'vue-router'

import { deadline } from '@/areas/plan/planWords'
import { useSheets } from '@/shared/api/queries'
import CautionLine from '@/shared/layout/CautionLine.vue'
import SampleMark from '@/shared/layout/SampleMark.vue'
import StateNotice from '@/shared/layout/StateNotice.vue'
import WaitLine from '@/shared/layout/WaitLine.vue'
import { outage } from '@/shared/outage'
import { text } from '@/shared/text'
import { useShortcuts } from '@/shared/useShortcuts'
import ExamineBefore from './ExamineBefore.vue'
import ExamineEnd from './ExamineEnd.vue'
import ExamineTest from './ExamineTest.vue'
import ProbabilityRow from './ProbabilityRow.vue'
import UrgentAlert from './UrgentAlert.vue'
import { useExamination } from './useExamination'
import { BEFORE, END, useExamineSteps } from './useExamineSteps'

/** An examination that is carried out: screening, one test at a time, the conclusion; over the whole screen. */
const props = defineProps<{ examination: string }>()

const words = text.examination.run
const router = useRouter()
const running = useExamination(props.examination)
const { view, entries, faults } = running
const steps = useExamineSteps(running)
const { tests, stands, at, nth, current, following, before, advised, enough, worth } = steps
const { go, titleOf, stateOf, isOut } = steps
const sheets = useSheets(() => tests.value.map((it) => String(it.test)))
const stop = computed(() => stands.value?.fit.stop ?? null)
const leave = () => router.push({ name: 'examination', params: { examination: props.examination } })
const kept = computed(() => {
  if (running.notHere.value && running.unsent.value) return words.notHere
  if (!running.unsent.value) return words.kept
  if (running.conflict.value) return words.toChoose
  return outage.cause || running.trouble.value ? words.unsent : words.keeping
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
            steps.all.value.map((value) => ({
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
            v-for="step in steps.all.value"
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
        <p class="choices">
          <v-btn variant="outlined" @click="running.keepMine">{{ words.mine }}</v-btn>
          <v-btn variant="outlined" @click="running.takeTheirs">{{ words.theirs }}</v-btn>
        </p>
      </section>
      <section v-if="running.trouble.value" class="notice" role="alert" data-test="examine-trouble">
        <p>
          <b>{{ words.refused }}</b> {{ running.trouble.value }} {{ words.onDevice }}
        </p>
        <v-btn variant="outlined" :loading="running.sending.value" @click="running.send">{{
          text.layout.retry
        }}</v-btn>
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
        <ExamineBefore v-if="at === BEFORE" :running="running" />
        <ExamineEnd v-else-if="at === END" :running="running" :steps="steps" @finished="leave" />
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
.choices {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
.content {
  padding: 12px 0;
  border-top: 1px solid var(--line);
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
