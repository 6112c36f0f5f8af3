<script setup lang="ts">
import { computed, ref, useTemplateRef, watch } from 'vue'

import type {
  Attempt,
  AttemptShown,
  AttemptSide,
  InabilityReason,
  UnreadableReason,
  Variant,
} from '@/shared/api/types'
import { text } from '@/shared/text'
import { useShortcuts } from '@/shared/useShortcuts'
import { sidesOf } from './examinationWords'
import HoldTimer from './HoldTimer.vue'

/** What a test showed, entered after release: one tap, one key. */
const props = defineProps<{
  variant: Variant | undefined
  affectedFirst: boolean
  attempts: Attempt[]
  disabled: boolean
}>()
const emit = defineEmits<{ record: [attempt: Attempt] }>()

const words = text.examination.run
const RESULTS: AttemptShown[] = ['positive', 'equivocal', 'negative', 'not_interpretable', 'unable']
const sides = computed(() => sidesOf(props.variant, props.affectedFirst))
const side = ref<AttemptSide>('affected')
/** The side that comes next: one after the other, and the same again once both were done. */
watch(
  [sides, () => props.attempts.length],
  () => {
    const [first, second] = sides.value
    const done = props.attempts.at(-1)?.side
    side.value = done && first !== 'both' && done === first ? (second ?? done) : (done ?? first ?? 'affected')
  },
  { immediate: true },
)
const hold = computed(() => {
  const holds = (props.variant?.steps ?? []).flatMap((it) => it.hold_seconds ?? [])
  return holds.length ? Math.max(...holds) : null
})
const held = ref<{ seconds: number; pain: boolean } | null>(null)
/** Which of the results asks for its reason. */
const asking = ref<'not_interpretable' | 'unable' | null>(null)
const other = ref('')
const reasons = computed(() =>
  Object.entries(asking.value === 'unable' ? words.unableFor : words.unreadable).map(([value, title]) => ({
    value,
    title,
  })),
)
const levels = computed(() => props.variant?.grading.levels ?? [])

function record(shown: AttemptShown, more: Partial<Attempt> = {}) {
  if (props.disabled) return
  emit('record', {
    side: side.value,
    shown,
    level: '',
    unreadable: null,
    unable: null,
    // Which pain ended a hold is the patient's to say.
    pain: null,
    held: held.value?.seconds ?? null,
    pain_ended: held.value?.pain ?? false,
    pitfalls: [],
    overruled: '',
    note: '',
    ...more,
  })
  held.value = null
  asking.value = null
  other.value = ''
}
function press(shown: AttemptShown) {
  if (shown === 'not_interpretable' || shown === 'unable') asking.value = shown
  else record(shown)
}
function because(reason: string) {
  if (asking.value === 'unable') record('unable', { unable: reason as InabilityReason })
  else if (reason !== 'other') record('not_interpretable', { unreadable: reason as UnreadableReason })
  else if (other.value.trim()) record('not_interpretable', { unreadable: 'other', note: other.value.trim() })
}
function digit(nth: number) {
  if (props.disabled) return
  const reason = reasons.value[nth]
  if (asking.value) {
    if (reason) because(reason.value)
  } else if (RESULTS[nth]) press(RESULTS[nth])
}
const timer = useTemplateRef('timer')
useShortcuts({
  ...Object.fromEntries([0, 1, 2, 3, 4].map((nth) => [String(nth + 1), () => digit(nth)])),
  s: () => (side.value = 'sound'),
  a: () => (side.value = 'affected'),
  b: () => (side.value = 'both'),
  p: () => timer.value?.pain(),
  ' ': (event) => {
    // A button that has the focus is pressed by it.
    if (!(event.target as HTMLElement).closest('button')) timer.value?.press()
  },
  Escape: () => (asking.value = null),
})
</script>

<template>
  <section class="entry" data-test="attempt-entry">
    <div class="line">
      <v-btn-toggle v-model="side" mandatory color="primary" :aria-label="words.side" divided>
        <v-btn v-for="it in sides" :key="it" :value="it" :data-test="`side-${it}`">{{
          text.examination.attemptSides[it]
        }}</v-btn>
      </v-btn-toggle>
      <HoldTimer ref="timer" :hold="hold" @held="(seconds, pain) => (held = { seconds, pain })" />
      <span v-if="held" class="small" role="status">{{
        held.pain ? words.painAt(held.seconds) : words.held(held.seconds)
      }}</span>
    </div>
    <h3>{{ words.result }}</h3>
    <div class="results">
      <v-btn
        v-for="(it, nth) in RESULTS"
        :key="it"
        class="result"
        variant="outlined"
        size="x-large"
        :disabled="disabled"
        :aria-expanded="it === 'not_interpretable' || it === 'unable' ? asking === it : undefined"
        :data-test="`shown-${it}`"
        @click="press(it)"
      >
        {{ words.shown[it as keyof typeof words.shown] }} <kbd aria-hidden="true">{{ nth + 1 }}</kbd>
      </v-btn>
    </div>
    <div v-if="levels.length" class="results" role="group" :aria-label="variant?.grading.name">
      <span class="small level" dir="auto">{{ words.orLevel }} {{ variant?.grading.name }}</span>
      <v-btn
        v-for="it in levels"
        :key="it.name"
        variant="outlined"
        size="large"
        :disabled="disabled"
        data-test="shown-level"
        @click="record('level', { level: it.name })"
        ><span dir="auto">{{ it.name }}</span></v-btn
      >
    </div>
    <div v-if="asking" class="why" role="group" :aria-label="words.why[asking]">
      <h3>{{ words.why[asking] }}</h3>
      <div class="results">
        <v-btn
          v-for="(it, nth) in reasons"
          :key="it.value"
          size="large"
          variant="outlined"
          :disabled="it.value === 'other' && !other.trim()"
          :data-test="`why-${it.value}`"
          @click="because(it.value)"
        >
          {{ it.title }} <kbd aria-hidden="true">{{ nth + 1 }}</kbd>
        </v-btn>
        <v-text-field
          v-if="asking === 'not_interpretable'"
          v-model="other"
          class="other"
          :label="words.otherReason"
          density="compact"
          hide-details
          data-test="why-words"
        />
      </div>
    </div>
  </section>
</template>

<style scoped>
.entry {
  display: grid;
  gap: 10px;
}
.line {
  display: flex;
  flex-wrap: wrap;
  gap: 10px 24px;
  align-items: center;
}
.results {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
}
.level {
  align-self: center;
}
.result {
  flex: 1 1 150px;
}
.why {
  padding: 10px 14px;
  border-left: 3px solid rgb(var(--v-theme-primary));
}
.other {
  flex: 1 1 200px;
}
kbd {
  margin-left: 8px;
  padding: 0 5px;
  font-size: 0.75rem;
  border: 1px solid var(--line);
  border-radius: 4px;
}
@media (max-width: 700px), (hover: none) {
  kbd {
    display: none;
  }
}
</style>
