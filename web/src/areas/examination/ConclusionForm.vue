<script setup lang="ts">
import { mdiClose, mdiPlus } from '@mdi/js'

import type { ExaminationConduct, FieldError, PlanAction, SuggestedRepeat } from '@/shared/api/types'
import IconButton from '@/shared/layout/IconButton.vue'
import { options } from '@/shared/question/useListPage'
import { text } from '@/shared/text'
import { triggerOf } from './examinationWords'

/** What is concluded, and what is to be examined again. */
const props = defineProps<{
  conduct: ExaminationConduct
  faults: FieldError[]
  /** What the sheets say is done again. */
  suggested: SuggestedRepeat[]
  tests: { value: string; title: string }[]
}>()
const emit = defineEmits<{ change: [work: (conduct: ExaminationConduct) => void] }>()

const words = text.examination.conclude
const ACTIONS = options<PlanAction>(text.plan.questions.actions)

type Texts = 'text' | 'next' | 'treatment' | 'training'
const errors = (field: string) =>
  props.faults.filter((it) => it.field === field).map((it) => `${it.message} ${it.remedy}`)
const say = (field: Texts, value: string) =>
  emit('change', ({ conclusion }) => (conclusion[field] = value.trim()))
const typed = (event: Event) => (event.target as HTMLInputElement).value
const name = (test: string) => props.tests.find((it) => it.value === test)?.title ?? text.plan.list.gone
const fresh = (it: SuggestedRepeat) =>
  !props.conduct.repeats.some((one) => one.test === it.test && one.trigger === triggerOf(it))
const add = (it: SuggestedRepeat | null) =>
  emit('change', ({ repeats }) =>
    repeats.push({
      test: it?.test ?? null,
      on: it?.on ?? new Date(Date.now() + 14 * 86_400_000).toISOString().slice(0, 10),
      trigger: it ? triggerOf(it) : '',
      keep_same: it?.keep_same ?? '',
      done: false,
    }),
  )
</script>

<template>
  <section class="concluding">
    <p class="small muted">{{ words.noName }}</p>
    <v-textarea
      :model-value="conduct.conclusion.text"
      :label="words.text"
      :error-messages="errors('conclusion.text')"
      rows="2"
      auto-grow
      data-test="conclusion-text"
      @change="say('text', typed($event))"
    />
    <v-checkbox
      :model-value="conduct.conclusion.undecided"
      :label="words.undecided"
      hide-details
      density="compact"
      data-test="conclusion-undecided"
      @update:model-value="emit('change', (it) => (it.conclusion.undecided = !!$event))"
    />
    <div class="fields">
      <v-select
        :model-value="conduct.conclusion.action"
        :items="ACTIONS"
        :label="words.action"
        :error-messages="errors('conclusion.action')"
        clearable
        data-test="conclusion-action"
        @update:model-value="emit('change', (it) => (it.conclusion.action = $event ?? null))"
      />
      <v-text-field
        :model-value="conduct.conclusion.next"
        :label="words.next"
        data-test="conclusion-next"
        @change="say('next', typed($event))"
      />
      <v-text-field
        :model-value="conduct.conclusion.deadline"
        type="date"
        :label="words.deadline"
        :error-messages="errors('conclusion.deadline')"
        data-test="conclusion-deadline"
        @change="emit('change', (it) => (it.conclusion.deadline = typed($event) || null))"
      />
      <v-checkbox
        v-if="conduct.conclusion.deadline"
        :model-value="conduct.conclusion.done"
        :label="words.done"
        hide-details
        density="compact"
        data-test="conclusion-done"
        @update:model-value="emit('change', (it) => (it.conclusion.done = !!$event))"
      />
    </div>
    <v-textarea
      v-for="it in ['treatment', 'training'] as const"
      :key="it"
      :model-value="conduct.conclusion[it]"
      :label="words[it]"
      rows="1"
      auto-grow
      :data-test="`conclusion-${it}`"
      @change="say(it, typed($event))"
    />
    <h3>{{ words.repeats }}</h3>
    <p v-if="!conduct.repeats.length" class="small muted">{{ words.noRepeats }}</p>
    <div v-for="(it, nth) in conduct.repeats" :key="nth" class="repeat" data-test="repeat">
      <v-select
        :model-value="it.test ?? ''"
        :items="[{ value: '', title: words.whole }, ...tests]"
        :label="words.test"
        density="compact"
        hide-details
        @update:model-value="emit('change', ({ repeats }) => (repeats[nth]!.test = $event || null))"
      />
      <v-text-field
        :model-value="it.on"
        type="date"
        :label="words.on"
        density="compact"
        :error-messages="errors(`repeats[${nth}].on`)"
        hide-details="auto"
        data-test="repeat-on"
        @change="emit('change', ({ repeats }) => (repeats[nth]!.on = typed($event) || null))"
      />
      <v-text-field
        :model-value="it.trigger"
        :label="words.trigger"
        density="compact"
        hide-details
        @change="emit('change', ({ repeats }) => (repeats[nth]!.trigger = typed($event)))"
      />
      <v-text-field
        :model-value="it.keep_same"
        :label="words.keepSame"
        density="compact"
        hide-details
        @change="emit('change', ({ repeats }) => (repeats[nth]!.keep_same = typed($event)))"
      />
      <v-checkbox
        :model-value="it.done"
        :label="words.done"
        density="compact"
        hide-details
        @update:model-value="emit('change', ({ repeats }) => (repeats[nth]!.done = !!$event))"
      />
      <IconButton
        :icon="mdiClose"
        :label="words.removeRepeat"
        @click="emit('change', ({ repeats }) => void repeats.splice(nth, 1))"
      />
    </div>
    <p class="add">
      <v-btn variant="text" :prepend-icon="mdiPlus" data-test="add-repeat" @click="add(null)">{{
        words.addRepeat
      }}</v-btn>
      <template v-if="suggested.some(fresh)">
        <span class="small muted">{{ words.suggested }}:</span>
        <v-btn
          v-for="it in suggested.filter(fresh)"
          :key="`${it.test} ${it.reason}`"
          variant="text"
          data-test="take-repeat"
          @click="add(it)"
          >{{ words.take(`${name(it.test)}, ${triggerOf(it) || it.on}`) }}</v-btn
        >
      </template>
    </p>
  </section>
</template>

<style scoped>
.concluding {
  display: grid;
  gap: 8px;
}
.fields {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(200px, 1fr));
  gap: 8px 16px;
}
.repeat {
  display: grid;
  grid-template-columns: 1.4fr 1fr 1.4fr 1.4fr auto auto;
  gap: 8px;
  align-items: center;
  padding-bottom: 8px;
  border-bottom: 1px solid var(--line);
}
.add {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
}
@media (max-width: 900px) {
  .repeat {
    grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  }
}
@media (max-width: 600px) {
  .repeat {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
