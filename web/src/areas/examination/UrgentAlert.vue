<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import { deadline } from '@/areas/plan/planWords'
import { text } from '@/shared/text'
import type { Running } from './useExamination'

/** An urgent finding interrupts at once, whatever the probability, until somebody says whether it was acted on. */
const props = defineProps<{ running: Running }>()

const words = text.examination.run
const place = computed(
  () => props.running.entries.value?.conduct.urgent.findIndex((it) => it.done == null) ?? -1,
)
const open = computed(() => props.running.entries.value?.conduct.urgent[place.value] ?? null)
const note = ref('')
watch(place, () => (note.value = ''))
function answer(done: boolean) {
  const at = place.value
  const said = note.value
  props.running.change((to) => {
    const it = to.conduct.urgent[at]
    if (it) Object.assign(it, { done, note: said })
  })
}
</script>

<template>
  <v-dialog :model-value="!!open" persistent max-width="640">
    <section v-if="open" class="alert" role="alertdialog" :aria-label="words.alert" data-test="urgent-alert">
      <h2>{{ words.alert }}</h2>
      <p class="finding" dir="auto">{{ open.finding }}</p>
      <h3>{{ words.alertDo }}</h3>
      <p class="act" dir="auto">
        <b>{{ open.action }}</b> {{ deadline(open.within_hours) }}
      </p>
      <v-textarea
        v-model="note"
        :label="words.alertNote"
        rows="2"
        auto-grow
        hide-details
        data-test="urgent-note"
      />
      <p class="buttons">
        <v-btn size="large" color="primary" variant="flat" data-test="urgent-done" @click="answer(true)">{{
          words.alertDone
        }}</v-btn>
        <v-btn size="large" data-test="urgent-not-done" @click="answer(false)">{{ words.alertNot }}</v-btn>
        <v-btn size="large" variant="text" data-test="urgent-undo" @click="running.undo">{{
          words.undo
        }}</v-btn>
      </p>
    </section>
  </v-dialog>
</template>

<style scoped>
.alert {
  display: grid;
  gap: 10px;
  padding: 22px 24px;
  background: rgb(var(--v-theme-surface));
  border: 3px solid rgb(var(--v-theme-error));
  border-radius: 8px;
}
h2 {
  color: rgb(var(--v-theme-error));
}
.finding,
.act {
  font-size: 1.2rem;
}
.buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
}
</style>
