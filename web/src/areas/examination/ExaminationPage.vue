<script setup lang="ts">
import {
  mdiAccountMultipleOutline,
  mdiArrowRight,
  mdiDeleteOutline,
  mdiFilePdfBox,
  mdiPencilOutline,
} from '@mdi/js'
import { computed, ref, watchEffect } from 'vue'
import { useRouter } from 'vue-router'

import { deadline } from '@/areas/plan/planWords'
import { api, data } from '@/shared/api/client'
import { refresh, useExaminationRecord } from '@/shared/api/queries'
import type { ExaminationConduct } from '@/shared/api/types'
import { copy } from '@/shared/copy'
import { day, percent, percentInterval, percentPoint } from '@/shared/format'
import CautionLine from '@/shared/layout/CautionLine.vue'
import FailureNotice from '@/shared/layout/FailureNotice.vue'
import SampleMark from '@/shared/layout/SampleMark.vue'
import WaitLine from '@/shared/layout/WaitLine.vue'
import { useQuestion } from '@/shared/question/useQuestion'
import { at, removeWithUndo, reported } from '@/shared/recordChanges'
import { text } from '@/shared/text'
import { undoBar } from '@/shared/undo'
import { useSaving } from '@/shared/useSaving'
import ConclusionForm from './ConclusionForm.vue'
import { nameIn } from './examinationWords'
import OutcomeTests from './OutcomeTests.vue'
import ReferenceForm from './ReferenceForm.vue'

/** The record of an examination. */
const props = defineProps<{ examination: string }>()

const words = text.examination.record
const router = useRouter()
const { carried } = useQuestion()
const stored = useExaminationRecord(() => props.examination)
const read = computed(() => stored.data.value ?? null)
const outcome = computed(() => read.value?.outcome ?? null)
/** By what the pooled figures of that day can be told from those of another: the test and their short name. */
const pooled = computed(() => {
  const steps = (outcome.value?.questions ?? []).flatMap((it) => it.steps).filter((it) => it.figures)
  const name = (test: string) => outcome.value?.tests.find((it) => it.test === test)?.name ?? ''
  return steps.map((it) => `${name(it.test)} ${it.figures}`).join(', ')
})
const conclusion = computed(() => read.value?.conduct.conclusion)
const tests = computed(() =>
  (read.value?.plan.tests ?? []).map((it) => ({
    value: String(it.test),
    title: nameIn(read.value!, it.test),
  })),
)
const { actions, undecided } = text.plan.questions

/** The conclusion as it is edited; the findings are locked. */
const draft = ref<ExaminationConduct | null>(null)
const saving = useSaving(text.examination.run.conflict)
function edit() {
  if (!read.value) return
  draft.value = copy(read.value.conduct)
  saving.begin(read.value.version)
}
async function save() {
  const [conduct, patient] = [draft.value, read.value?.patient]
  if (!conduct || !patient) return
  const path = { id: props.examination }
  const saved = await saving.save((header) =>
    api.PUT('/api/v1/examinations/{id}', { params: { path, header }, body: { patient, conduct } }),
  )
  if (!saved) return
  draft.value = null
  undoBar.offer(text.examination.conclude.saved)
}
const sharing = ref(false)
const confirmed = ref(false)
const setShared = (shared: boolean) =>
  reported(async () => {
    if (!read.value) return
    const body = { shared, identifies_nobody: shared && confirmed.value }
    await api.PUT('/api/v1/examinations/{id}/sharing', { ...at(read.value.id, read.value.version), body })
    sharing.value = false
    confirmed.value = false
    undoBar.offer(shared ? words.sharedNow : words.unshared)
  })
async function remove() {
  const it = read.value
  if (!it) return
  await router.push({ name: 'examinations', query: carried.value })
  await removeWithUndo(
    text.examination.removed,
    async () => data(await api.DELETE('/api/v1/examinations/{id}', at(it.id, it.version))),
    (version) => api.POST('/api/v1/examinations/{id}/restore', at(it.id, version)).then(refresh),
  )
}
watchEffect(() => (document.title = `${read.value?.label ?? text.examination.title} – Pruvex`))
</script>

<template>
  <div>
    <nav class="small no-print" :aria-label="text.layout.back">
      <router-link :to="{ name: 'examinations', query: carried }">← {{ text.examination.back }}</router-link>
    </nav>
    <FailureNotice v-if="stored.isError.value && !read" :query="stored" :title="text.examination.failedOne" />
    <template v-else-if="read && conclusion">
      <div class="title-bar">
        <h1>{{ read.label }} <SampleMark v-if="read.sample" /></h1>
        <span class="no-print acts">
          <v-btn
            v-if="read.own && !outcome"
            color="primary"
            variant="flat"
            :append-icon="mdiArrowRight"
            :to="{ name: 'examine', params: { examination: read.id } }"
            data-test="go-on"
            >{{ text.examination.goOn }}</v-btn
          >
          <v-btn
            v-if="outcome"
            variant="text"
            :prepend-icon="mdiFilePdfBox"
            :href="`/api/v1/examinations/${read.id}/examination.pdf`"
            target="_blank"
            data-test="examination-pdf"
            >{{ text.examination.pdf }}</v-btn
          >
          <v-btn
            v-if="read.own && outcome && !draft"
            variant="text"
            :prepend-icon="mdiPencilOutline"
            data-test="edit-conclusion"
            @click="edit"
            >{{ words.edit }}</v-btn
          >
          <v-btn
            v-if="read.may_share"
            variant="text"
            :prepend-icon="mdiAccountMultipleOutline"
            data-test="share"
            @click="read.shared_at ? setShared(false) : (sharing = true)"
            >{{ read.shared_at ? words.unshare : words.share }}</v-btn
          >
          <v-btn
            v-if="read.own"
            variant="text"
            :prepend-icon="mdiDeleteOutline"
            data-test="delete-examination"
            @click="remove"
            >{{ text.examination.removeOne }}</v-btn
          >
        </span>
      </div>
      <p class="small muted">
        <router-link :to="{ name: 'plan', params: { plan: read.plan_id }, query: carried }" dir="auto">{{
          read.plan.title
        }}</router-link>
        · {{ text.regions[read.plan.region]
        }}<template v-if="read.conduct.affected_side">
          · {{ text.examination.affected }}: {{ text.examination.affectedSides[read.conduct.affected_side] }}
        </template>
        ·
        {{
          read.finished_at
            ? text.examination.finished(day(read.finished_at))
            : text.examination.begun(day(read.created_at))
        }}<template v-if="!read.own"> · {{ words.foreign }}</template>
      </p>
      <p v-if="!outcome" class="note" role="status">{{ words.running }}</p>
      <section v-if="read.conduct.urgent.length" class="urgent">
        <h2>{{ words.urgent }}</h2>
        <p v-for="(it, nth) in read.conduct.urgent" :key="nth" dir="auto">
          <b>{{ it.finding }}</b> {{ it.action }} {{ deadline(it.within_hours) }}
          <b v-if="it.done != null">{{ it.done ? words.actedOn : words.notActedOn }}</b> {{ it.note }}
        </p>
      </section>
      <p v-if="outcome?.stop" class="urgent" dir="auto">
        <b>{{ text.examination.run.stopAll }}</b> {{ outcome.stop }}
      </p>
      <form v-if="draft" class="editing" @submit.prevent="save">
        <ConclusionForm
          :conduct="draft"
          :faults="saving.errors.value"
          :suggested="[]"
          :tests="tests"
          @change="(work) => draft && work(draft)"
        />
        <p v-if="saving.failure.value" class="failure" role="alert">{{ saving.failure.value }}</p>
        <p>
          <v-btn
            type="submit"
            color="primary"
            variant="flat"
            :loading="saving.saving.value"
            data-test="save-conclusion"
            >{{ text.examination.conclude.save }}</v-btn
          >
          <v-btn variant="text" @click="draft = null">{{ words.cancel }}</v-btn>
        </p>
      </form>
      <section v-else-if="outcome" data-test="record-conclusion">
        <h2>{{ words.conclusion }}</h2>
        <p v-if="conclusion.undecided">
          <b>{{ words.undecided }}</b>
        </p>
        <p class="pre-line" dir="auto">{{ conclusion.text }}</p>
        <p v-if="conclusion.action || conclusion.next" dir="auto">
          <b>{{ words.next }}:</b>
          {{
            [conclusion.action ? actions[conclusion.action] : '', conclusion.next].filter(Boolean).join(', ')
          }}<template v-if="conclusion.deadline">, {{ words.by(day(conclusion.deadline)) }}</template>
          <template v-if="conclusion.done"> ({{ words.done }})</template>
        </p>
        <p v-for="it in ['treatment', 'training'] as const" v-show="conclusion[it]" :key="it" dir="auto">
          <b>{{ words[it] }}:</b> {{ conclusion[it] }}
        </p>
        <template v-if="read.conduct.repeats.length">
          <h3>{{ words.repeats }}</h3>
          <p v-for="(it, nth) in read.conduct.repeats" :key="nth" dir="auto" data-test="record-repeat">
            <b v-if="it.test">{{ nameIn(read, it.test) }}:</b>
            {{ [it.on ? day(it.on) : '', it.trigger, it.keep_same].filter(Boolean).join('; ')
            }}<template v-if="it.done"> ({{ words.done }})</template>
          </p>
        </template>
      </section>
      <template v-if="outcome">
        <h2>{{ words.probabilities }}</h2>
        <p v-for="it in outcome.questions" :key="it.condition" class="probability" dir="auto">
          <b>{{ it.condition }}</b>
          <span>{{ words.before(percent(it.pre_test)) }}</span>
          <span v-if="it.steps.some((step) => step.after)">
            {{ words.after(percentPoint(it.after)) }}
            <span class="small muted">{{ percentInterval(it.after) }}</span>
          </span>
          <span v-else class="muted">{{ words.untold }}</span>
          <span>{{ it.action ? actions[it.action] : undecided }}</span>
        </p>
        <p class="small">{{ words.end(words.ends[outcome.end]) }}</p>
        <p v-if="outcome.must_not_miss.length" class="small" dir="auto">
          {{ words.mustNotMiss }}:
          {{
            outcome.must_not_miss
              .map((it) => `${it.condition} (${it.asked ? words.askedAbout : words.notAskedAbout})`)
              .join('; ')
          }}
        </p>
        <OutcomeTests :outcome="outcome" :conduct="read.conduct" />
        <ReferenceForm :record="read" />
        <template v-if="outcome.screening.length">
          <h2>{{ words.asked }}</h2>
          <p v-for="it in outcome.screening" :key="it.question" class="small" dir="auto">
            {{ it.question }} <b>{{ it.answer ? text.plan.fit.answers[it.answer] : words.notAnswered }}</b>
          </p>
        </template>
        <p class="small muted used">
          {{ words.used(read.plan_version, outcome.engine) }} {{ pooled && words.pooled(pooled) }}
        </p>
      </template>
      <CautionLine />
      <v-dialog v-model="sharing" max-width="560">
        <section class="dialog" :aria-label="words.shareTitle">
          <h2>{{ words.shareTitle }}</h2>
          <p>{{ words.shareAbout }}</p>
          <v-checkbox v-model="confirmed" :label="words.confirm" hide-details data-test="confirm-nobody" />
          <p>
            <v-btn
              color="primary"
              variant="flat"
              :disabled="!confirmed"
              data-test="share-now"
              @click="setShared(true)"
              >{{ words.share }}</v-btn
            >
            <v-btn variant="text" @click="sharing = false">{{ words.cancel }}</v-btn>
          </p>
        </section>
      </v-dialog>
    </template>
    <WaitLine v-else />
  </div>
</template>

<style scoped>
h2 {
  margin-top: 16px;
}
.urgent {
  margin: 10px 0;
  padding: 8px 14px;
  border: 2px solid rgb(var(--v-theme-error));
  border-radius: 6px;
}
.urgent h2 {
  margin: 0;
  font-size: 1rem;
}
.probability {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 18px;
  align-items: baseline;
}
.editing {
  margin: 10px 0;
}
.used {
  margin-top: 14px;
}
.note {
  margin-top: 8px;
}
.dialog {
  display: grid;
  gap: 10px;
  padding: 20px 24px;
  background: rgb(var(--v-theme-surface));
  border-radius: 8px;
}
</style>
