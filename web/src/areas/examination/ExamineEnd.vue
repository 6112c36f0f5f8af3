<script setup lang="ts">
import { computed } from 'vue'

import PlanStanding from '@/areas/plan/PlanStanding.vue'
import { text } from '@/shared/text'
import ConclusionForm from './ConclusionForm.vue'
import type { Running } from './useExamination'
import type { Steps } from './useExamineSteps'

/** Where an examination stands, what was left out, and what is concluded. */
const props = defineProps<{ running: Running; steps: Steps }>()
const emit = defineEmits<{ finished: [] }>()

const words = text.examination.run
const { entries, faults } = props.running
const { names, stands, titleOf, stateOf } = props.steps
/** What was asked about otherwise, as the panel of results reads it. */
const asked = {
  asked: computed(() => entries.value?.conduct.asked ?? []),
  setAsked: (condition: string, on: boolean) =>
    props.running.change(({ conduct }) => {
      const others = conduct.asked.filter((it) => it !== condition)
      conduct.asked = on ? [...others, condition] : others
    }),
}
const left = computed(() => {
  const fits = stands.value?.fit.tests ?? []
  return fits.filter((it) => !props.running.of(it.test)?.attempts.length)
})
async function finish() {
  if (await props.running.finish()) emit('finished')
}
</script>

<template>
  <section v-if="entries" class="end" data-test="examine-end">
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
    <v-btn class="finish" color="primary" variant="flat" size="large" data-test="finish" @click="finish">{{
      text.examination.conclude.finish
    }}</v-btn>
  </section>
</template>

<style scoped>
.end {
  display: grid;
  gap: 12px;
  max-width: 1000px;
}
.finish {
  justify-self: start;
}
</style>
