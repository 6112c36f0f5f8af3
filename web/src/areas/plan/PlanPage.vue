<script setup lang="ts">
import {
  mdiAccountCheckOutline,
  mdiClipboardPulseOutline,
  mdiContentCopy,
  mdiFilePdfBox,
  mdiPencilOutline,
  mdiPlusMinusVariant,
} from '@mdi/js'
import { computed, watchEffect } from 'vue'
import { useRouter } from 'vue-router'

import ReviewBar from '@/areas/review/ReviewBar.vue'
import { api, data } from '@/shared/api/client'
import { usePlan, usePlanFitAnswer, usePlanStandingAnswer, useTests } from '@/shared/api/queries'
import type { Region } from '@/shared/api/types'
import CautionLine from '@/shared/layout/CautionLine.vue'
import FailureNotice from '@/shared/layout/FailureNotice.vue'
import SampleMark from '@/shared/layout/SampleMark.vue'
import WaitLine from '@/shared/layout/WaitLine.vue'
import { useQuestion } from '@/shared/question/useQuestion'
import { useAttempt } from '@/shared/useAttempt'
import { may } from '@/shared/session/session'
import { text } from '@/shared/text'
import { planDraft } from './planDraft'
import PlanFit from './PlanFit.vue'
import PlanOrder from './PlanOrder.vue'
import PlanOutlook from './PlanOutlook.vue'
import PlanResult from './PlanResult.vue'
import PlanStanding from './PlanStanding.vue'
import PlanTests from './PlanTests.vue'
import { such } from './planWords'
import { usePlanFit } from './usePlanFit'
import { usePlanOrder } from './usePlanOrder'
import { usePlanResults } from './usePlanResults'

/** A plan as it is read: what it decides, its tests in their order, and why they stand there. */
const props = defineProps<{ plan: string }>()

const words = text.plan
const { carried } = useQuestion()
const stored = usePlan(() => props.plan)
const read = computed(() => stored.data.value ?? null)
const draft = computed(() => (read.value ? planDraft(read.value) : null))
const state = usePlanFit()
const fitting = usePlanFitAnswer(() => props.plan, state.input, state.open)
const fit = computed(() => (state.open.value ? (fitting.data.value ?? null) : null))
const fitOf = (test: string | undefined) => fit.value?.tests.find((it) => it.test === test)?.state
const tried = usePlanResults()
const notNow = computed(() =>
  (fit.value?.tests ?? []).filter((it) => it.left_out || it.state === 'not_now').map((it) => it.test),
)
/** Of a patient no result is asked before it is known which tests are locked; and what stops everything stops this, too. */
const trying = computed(() => tried.open.value && (!state.open.value || (!!fit.value && !fit.value.stop)))
/** The levels for which studies tell what they are worth, under whichever of its conditions. */
const rows = useTests(
  () => ({
    region: (read.value?.region ?? 'hand_wrist') as Region,
    search: '',
    sort: 'name' as const,
    reverse: false,
    limit: 500,
    each_condition: true,
  }),
  () => tried.open.value && !!read.value,
)
const levels = computed(() => {
  const names = new Map<string, string[]>()
  for (const { id, levels } of rows.data.value?.rows ?? [])
    names.set(id, [...new Set([...(names.get(id) ?? []), ...levels.map((it) => it.name)])])
  return names
})
/** Neither out now nor locked by an open question. */
const doable = computed(() =>
  (draft.value?.tests ?? [])
    .map((it) => it.test)
    .filter((test) => !notNow.value.includes(test) && fitOf(test) !== 'locked'),
)
const standingAsked = usePlanStandingAnswer(
  () => props.plan,
  () => tried.input(doable.value, notNow.value),
  () => trying.value && !!draft.value,
)
const standing = computed(() => (trying.value ? (standingAsked.data.value ?? null) : null))
/** Of a patient what is not done is not counted on either, and an optional test that is wished is. */
const { answer } = usePlanOrder(
  computed(() => {
    const said = fit.value
    if (!draft.value || !said) return draft.value
    const out = new Set(notNow.value)
    return { ...draft.value, tests: draft.value.tests.map((it) => ({ ...it, optional: out.has(it.test) })) }
  }),
)
const names = computed(() => new Map(read.value?.named_tests.map(({ id, name }) => [id, name])))
const name = (test: string) => names.value.get(test) ?? words.list.gone
const optional = computed(() =>
  (draft.value?.tests ?? []).flatMap((it) => (it.optional ? [{ value: it.test, title: name(it.test) }] : [])),
)
const at = (route: string) => ({ name: route, params: { plan: props.plan }, query: carried.value })
const router = useRouter()
const begin = useAttempt()
/** Goes on with what is known of the patient already. */
async function examine() {
  const body = { plan: props.plan, patient: state.input.value }
  const begun = await begin.attempt(async () => data(await api.POST('/api/v1/examinations', { body })))
  if (begun) await router.push({ name: 'examine', params: { examination: begun.id } })
}
watchEffect(() => (document.title = `${read.value?.title ?? words.title} – Pruvex`))
</script>

<template>
  <div>
    <nav class="small no-print" :aria-label="text.layout.back">
      <router-link :to="{ name: 'plans', query: carried }">← {{ words.back }}</router-link>
    </nav>
    <FailureNotice v-if="stored.isError.value && !read" :query="stored" :title="words.failedOne" />
    <template v-else-if="read && draft">
      <div class="title-bar">
        <h1 dir="auto">{{ read.title }} <SampleMark v-if="read.sample || answer?.sample" /></h1>
        <span class="no-print acts">
          <v-btn
            :variant="state.open.value ? 'text' : 'flat'"
            :color="state.open.value ? undefined : 'primary'"
            :prepend-icon="mdiAccountCheckOutline"
            data-test="fit-plan"
            @click="state.setOpen(!state.open.value)"
          >
            {{ state.open.value ? words.fit.end : words.fit.begin }}
          </v-btn>
          <v-btn
            variant="text"
            :prepend-icon="mdiPlusMinusVariant"
            data-test="try-results"
            @click="tried.setOpen(!tried.open.value)"
          >
            {{ tried.open.value ? words.standing.end : words.standing.begin }}
          </v-btn>
          <v-btn
            variant="text"
            :prepend-icon="mdiClipboardPulseOutline"
            :loading="begin.busy.value"
            data-test="examine"
            @click="examine"
          >
            {{ text.examination.begin }}
          </v-btn>
          <v-btn
            variant="text"
            :prepend-icon="mdiFilePdfBox"
            :href="`/api/v1/plans/${read.id}/plan.pdf`"
            target="_blank"
            data-test="plan-pdf"
          >
            {{ words.pdf }}
          </v-btn>
          <template v-if="may('write_sheets')">
            <v-btn
              variant="text"
              :prepend-icon="mdiContentCopy"
              :to="{ name: 'new-plan', query: { ...carried, from: read.id } }"
              data-test="copy-plan"
            >
              {{ words.copy }}
            </v-btn>
            <v-btn :prepend-icon="mdiPencilOutline" :to="at('edit-plan')" data-test="edit-plan">
              {{ words.edit }}
            </v-btn>
          </template>
        </span>
      </div>
      <p v-if="begin.failure.value" class="failure" role="alert">
        {{ text.examination.beginFailed }}. {{ begin.failure.value }}
      </p>
      <ReviewBar :record="read" kind="plans" :label="words.label" :history="at('plan-history')" />
      <section
        v-if="read.changed_sheets.length"
        class="changed small"
        role="status"
        data-test="changed-sheets"
      >
        <h2>{{ words.changed.title }}</h2>
        <p v-for="it in read.changed_sheets" :key="it.test" dir="auto">
          {{ words.changed[it.change](it.name) }}
        </p>
      </section>
      <p class="small muted">
        {{ text.regions[read.region] }}<template v-for="it in such(draft)" :key="it"> · {{ it }}</template> ·
        {{ words.form.sides[read.affected_side_first ? 'affected' : 'sound'] }}
      </p>
      <p v-if="read.note" class="note pre-line" dir="auto">{{ read.note }}</p>
      <FailureNotice
        v-if="state.open.value && fitting.isError.value"
        :query="fitting"
        :title="words.fit.failed"
      />
      <PlanFit v-else-if="fit" :fit="fit" :state="state" :optional="optional" />
      <FailureNotice
        v-if="trying && standingAsked.isError.value"
        :query="standingAsked"
        :title="words.standing.failed"
      />
      <PlanStanding
        v-else-if="standing"
        :standing="standing"
        :state="tried"
        :name="(place) => name(draft?.tests[place]?.test ?? '')"
        :locked="(place) => fitOf(draft?.tests[place]?.test) === 'locked'"
      />
      <div class="sides">
        <section>
          <h2>{{ words.list.title }}</h2>
          <PlanTests
            :tests="draft.tests"
            :questions="draft.questions"
            :answer="answer"
            :fit="fit"
            :such="such(draft).join(', ')"
            :name="name"
          >
            <template v-if="trying" #default="{ place, test }">
              <PlanResult
                v-if="doable.includes(test.test)"
                :name="name(test.test)"
                :place="place"
                :result="tried.results.value.get(test.test)"
                :levels="levels.get(test.test) ?? []"
                :standing="standing"
                @say="tried.say(test.test, $event)"
              />
            </template>
          </PlanTests>
        </section>
        <aside>
          <PlanOutlook :title="words.questions.title" :questions="draft.questions" :answer="answer" />
          <PlanOrder v-if="answer" :answer="answer" :name="name" />
        </aside>
      </div>
      <CautionLine />
    </template>
    <WaitLine v-else />
  </div>
</template>

<style scoped>
.acts {
  padding-bottom: 6px;
}
.changed {
  margin-bottom: 12px;
  padding: 8px 12px;
  border: 1px solid rgb(var(--v-theme-error));
  border-radius: 6px;
}
.changed h2 {
  font-size: 1rem;
}
.note {
  max-width: 80ch;
  margin-top: 8px;
}
.sides {
  display: grid;
  grid-template-columns: minmax(0, 1.7fr) minmax(0, 1fr);
  gap: 24px 40px;
  align-items: start;
  margin: 16px 0;
}
aside {
  display: grid;
  gap: 22px;
}
@media (max-width: 900px) {
  .sides {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
