<script setup lang="ts">
import { computed, watchEffect } from 'vue'
import { useRouter } from 'vue-router'

import { useOfferedTests } from '@/shared/api/queries'
import type { Region } from '@/shared/api/types'
import EditorFoot from '@/shared/layout/EditorFoot.vue'
import FailureNotice from '@/shared/layout/FailureNotice.vue'
import WaitLine from '@/shared/layout/WaitLine.vue'
import { options } from '@/shared/question/useListPage'
import { useQuestion } from '@/shared/question/useQuestion'
import { text } from '@/shared/text'
import { inProposedOrder, moved, planTest, type PlanTest, without } from './planDraft'
import PlanAdding from './PlanAdding.vue'
import PlanOrder from './PlanOrder.vue'
import PlanOutlook from './PlanOutlook.vue'
import PlanQuestions from './PlanQuestions.vue'
import PlanTestFields from './PlanTestFields.vue'
import PlanTests from './PlanTests.vue'
import PlanWishes from './PlanWishes.vue'
import { such } from './planWords'
import { usePlanEditing } from './usePlanEditing'

/** Writing a plan: what it decides, which tests, in which order. */
const props = defineProps<{ plan?: string }>()

const words = text.plan
const router = useRouter()
const { carried } = useQuestion()
const editing = usePlanEditing(props.plan, (saved) =>
  router.push({ name: 'plan', params: { plan: saved.id }, query: carried.value }),
)
const { draft, answer, follow, stored, of, save, resumed, beginAnew, orderFaults } = editing

const list = useOfferedTests(() => (draft.value?.region ?? 'hand_wrist') as Region)
const names = computed(() => new Map((list.data.value ?? []).map(({ test, name }) => [test, name])))
const name = (test: string) =>
  names.value.get(test) ?? answer.value?.tests.find((it) => it.test === test)?.name ?? words.list.gone
const offered = computed(() =>
  (list.data.value ?? []).filter(({ test }) => !draft.value?.tests.some((it) => it.test === test)),
)
const others = (test: PlanTest) =>
  (draft.value?.tests ?? [])
    .filter((it) => it.test !== test.test)
    .map((it) => ({ value: it.test, title: name(it.test) }))

const tests = (to: PlanTest[]) => draft.value && (draft.value.tests = to)
function add(test: string) {
  if (draft.value) tests([...draft.value.tests, planTest(test)])
}
function move(from: number, to: number) {
  follow.value = false
  if (draft.value) tests(moved(draft.value.tests, from, to))
}
function change(place: number, to: PlanTest) {
  if (draft.value) tests(draft.value.tests.with(place, to))
}
function propose() {
  if (draft.value && answer.value) tests(inProposedOrder(draft.value.tests, answer.value))
}
function setFollow(on: boolean) {
  follow.value = on
  if (on) propose()
}
const SIDES = options(words.form.sides)
/** Faults that belong to no field of the form, such as wishes that contradict each other. */
const loose = computed(() => [
  ...new Set(
    orderFaults.value.filter((it) => it.field.includes('after')).map((it) => `${it.message} ${it.remedy}`),
  ),
])
const back = computed(() =>
  props.plan
    ? { name: 'plan', params: { plan: props.plan }, query: carried.value }
    : { name: 'plans', query: carried.value },
)
const title = computed(() => (props.plan ? words.editTitle(stored.data.value?.title ?? '…') : words.newTitle))
watchEffect(() => (document.title = `${title.value} – Pruvex`))
</script>

<template>
  <div>
    <h1 dir="auto">{{ title }}</h1>
    <p v-if="draft" class="small muted">{{ text.regions[draft.region as Region] }}</p>
    <FailureNotice v-if="stored.isError.value && !draft" :query="stored" :title="words.failedOne" />
    <form v-else-if="draft" novalidate @submit.prevent="save">
      <p v-if="resumed" class="resumed small" data-test="resumed">
        {{ words.form.resumed(resumed) }}
        <v-btn size="small" data-test="begin-anew" @click="beginAnew">{{ words.form.anew }}</v-btn>
      </p>
      <div class="head">
        <v-text-field
          v-model="draft.title"
          class="title"
          :label="words.form.title"
          :hint="words.form.titleHint"
          :error-messages="of('title')"
          data-test="plan-title"
        />
        <v-select
          v-model="draft.setting"
          :items="options(text.setup.choices.setting.words)"
          :label="words.form.setting"
          clearable
          hide-details
          data-test="plan-setting"
        />
        <v-select
          v-model="draft.course"
          :items="options(text.setup.choices.course.words)"
          :label="words.form.course"
          clearable
          hide-details
          data-test="plan-course"
        />
        <v-select
          v-model="draft.state"
          :items="options(text.setup.choices.state.words)"
          :label="words.form.state"
          clearable
          hide-details
          data-test="plan-state"
        />
        <v-select
          :model-value="draft.affected_side_first ? 'affected' : 'sound'"
          :items="SIDES"
          :label="words.form.side"
          hide-details
          data-test="plan-side"
          @update:model-value="draft.affected_side_first = $event === 'affected'"
        />
        <v-textarea
          v-model="draft.note"
          class="note"
          :label="words.form.note"
          rows="1"
          auto-grow
          hide-details
          data-test="plan-note"
        />
      </div>
      <PlanQuestions v-model="draft.questions" :region="draft.region" :of="of" />
      <div class="sides">
        <section>
          <h2>{{ words.list.title }}</h2>
          <p v-if="!draft.tests.length" class="muted">{{ words.list.none }}</p>
          <p
            v-for="fault in of('tests').slice(0, 1)"
            v-show="!draft.tests.length"
            :key="fault"
            class="failure small"
          >
            {{ fault }}
          </p>
          <p v-for="fault in loose" :key="fault" class="failure small" role="alert">{{ fault }}</p>
          <PlanTests
            v-slot="{ place, test, said }"
            :tests="draft.tests"
            :questions="draft.questions"
            :answer="answer"
            :such="such(draft).join(', ')"
            :name="name"
            editable
            @move="move"
            @remove="tests(without(draft.tests, $event))"
          >
            <PlanTestFields
              :model-value="test"
              :said="said"
              :name="name(test.test)"
              :others="others(test)"
              :of="(field) => of(`tests[${place}].${field}`)"
              @update:model-value="change(place, $event)"
            />
          </PlanTests>
          <PlanAdding :offered="offered" @add="add" />
        </section>
        <aside>
          <PlanOrder v-if="answer" v-slot="{ proposed }" :answer="answer" :name="name">
            <v-checkbox
              :model-value="follow"
              :label="words.cost.follow"
              density="compact"
              hide-details
              data-test="follow"
              @update:model-value="setFollow(!!$event)"
            />
            <v-btn
              v-if="!proposed"
              class="propose"
              size="small"
              variant="outlined"
              data-test="propose"
              @click="propose"
            >
              {{ words.cost.apply }}
            </v-btn>
          </PlanOrder>
          <v-checkbox
            :model-value="!draft.frame_anywhere"
            :label="words.form.frame"
            density="compact"
            hide-details
            data-test="frame-first"
            @update:model-value="draft.frame_anywhere = !$event"
          />
          <PlanWishes v-model="draft.weights" />
          <PlanOutlook
            v-if="answer"
            :title="words.questions.becomes"
            :questions="draft.questions"
            :answer="answer"
          />
        </aside>
      </div>
      <EditorFoot :editing="editing">
        <v-btn :to="back" variant="text">{{ words.form.cancel }}</v-btn>
      </EditorFoot>
    </form>
    <WaitLine v-else />
  </div>
</template>

<style scoped>
.head {
  display: grid;
  grid-template-columns: repeat(4, minmax(0, 1fr));
  align-items: start;
  gap: 10px;
  margin: 12px 0 14px;
}
.title,
.note {
  grid-column: 1 / -1;
}
.resumed {
  margin: 10px 0;
  padding: 8px 12px;
  background: rgba(var(--v-theme-primary), 0.07);
  border-radius: 6px;
}
.sides {
  display: grid;
  grid-template-columns: minmax(0, 1.7fr) minmax(0, 1fr);
  gap: 24px 40px;
  align-items: start;
  margin: 18px 0;
}
aside {
  display: grid;
  gap: 18px;
}
.propose {
  justify-self: start;
}
@media (max-width: 900px) {
  .head {
    grid-template-columns: repeat(2, minmax(0, 1fr));
  }
  .sides {
    grid-template-columns: minmax(0, 1fr);
  }
}
@media screen and (max-width: 600px) {
  .head {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
