<script setup lang="ts">
import { mdiClose } from '@mdi/js'
import { computed } from 'vue'

import { outcomes } from '@/areas/catalogue/sheetWords'
import type { Attempt, PainFound, TestReading } from '@/shared/api/types'
import IconButton from '@/shared/layout/IconButton.vue'
import { text } from '@/shared/text'
import { attemptNotes, causeWords, outcomeWord, shownWords } from './examinationWords'

/** Every attempt at a test, how it is read, and what belongs to the last one. */
const props = defineProps<{
  attempts: Attempt[]
  /** As the sheet reads those that were sent. */
  reading: TestReading | null
  /** Pitfalls of the sheet that lie in the patient. */
  pitfalls: string[]
}>()
const emit = defineEmits<{ change: [work: (last: Attempt) => void]; remove: [place: number] }>()

const words = text.examination.run
const PAINS = Object.keys(words.pains) as PainFound[]
const last = computed(() => props.attempts.at(-1) ?? null)
const readOf = (place: number) => {
  const read = props.reading?.attempts[place]
  if (!read) return ''
  return read.cause ? `${words.readAs(outcomeWord(read.outcome))}, ${causeWords(read.cause)}` : ''
}
const spoilt = computed(() => {
  const cause = props.reading?.attempts[props.attempts.length - 1]?.cause?.code
  return cause === 'pitfall' || cause === 'overruled'
})
const toggle = (pitfall: string) =>
  emit('change', (it) => {
    it.pitfalls = it.pitfalls.includes(pitfall)
      ? it.pitfalls.filter((one) => one !== pitfall)
      : [...it.pitfalls, pitfall]
  })
</script>

<template>
  <section v-if="last" class="attempts">
    <h3>
      {{ words.attempts }}
      <span v-if="reading?.outcome" class="read" data-test="test-reading">{{
        outcomes[reading.outcome]
      }}</span>
    </h3>
    <ol>
      <li v-for="(it, place) in attempts" :key="place" data-test="attempt">
        <span>
          <span v-if="it.side" class="muted">{{ text.examination.attemptSides[it.side] }}:&nbsp;</span>
          <b dir="auto">{{ shownWords(it) }}</b>
          <span v-if="reading?.counts === place" class="small muted">&nbsp;· {{ words.counts }}</span>
          <span v-if="attemptNotes(it).length" class="small" dir="auto">
            · {{ attemptNotes(it).join('; ') }}</span
          >
          <span v-if="readOf(place)" class="small said" dir="auto">{{ readOf(place) }}</span>
        </span>
        <IconButton :icon="mdiClose" :label="words.removeAttempt(place + 1)" @click="emit('remove', place)" />
      </li>
    </ol>
    <p v-if="reading?.after_repeats" class="small failure" data-test="after-repeats">
      {{ words.afterRepeats }}
    </p>
    <p v-if="reading?.sound_side_too" class="small failure" data-test="sound-too">{{ words.soundToo }}</p>
    <h3>{{ words.last }}</h3>
    <div class="more">
      <v-btn-toggle
        :model-value="last.pain ?? undefined"
        :aria-label="words.pain"
        divided
        density="comfortable"
        color="primary"
        @update:model-value="emit('change', (it) => (it.pain = $event ?? null))"
      >
        <v-btn v-for="it in PAINS" :key="it" :value="it" :data-test="`pain-${it}`">{{
          words.pains[it]
        }}</v-btn>
      </v-btn-toggle>
      <fieldset v-if="pitfalls.length">
        <legend class="small">{{ words.pitfalls }}</legend>
        <label v-for="it in pitfalls" :key="it">
          <input
            type="checkbox"
            :checked="last.pitfalls.includes(it)"
            data-test="attempt-pitfall"
            @change="toggle(it)"
          />
          <span dir="auto">{{ it }}</span>
        </label>
      </fieldset>
      <v-text-field
        v-if="spoilt"
        :model-value="last.overruled"
        :label="words.overruled"
        density="compact"
        hide-details
        data-test="attempt-overruled"
        @change="emit('change', (it) => (it.overruled = ($event.target as HTMLInputElement).value.trim()))"
      />
      <v-text-field
        :model-value="last.note"
        :label="words.note"
        density="compact"
        hide-details
        data-test="attempt-note"
        @change="emit('change', (it) => (it.note = ($event.target as HTMLInputElement).value.trim()))"
      />
    </div>
  </section>
</template>

<style scoped>
.attempts {
  display: grid;
  gap: 6px;
}
.read {
  margin-left: 8px;
  font-weight: 700;
}
ol {
  padding-left: 1.4em;
}
li > span {
  display: inline;
}
.said {
  display: block;
}
.more {
  display: grid;
  gap: 10px;
}
fieldset {
  min-width: 0;
  padding: 0;
  border: 0;
}
label {
  display: flex;
  gap: 8px;
  align-items: center;
  min-height: 44px;
}
input[type='checkbox'] {
  flex: none;
  width: 20px;
  height: 20px;
  accent-color: rgb(var(--v-theme-primary));
}
</style>
