<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import { computed, onUnmounted, ref } from 'vue'

import { text } from '@/shared/text'

/** A timer for holds: begun before the hands are laid on, it counts by itself and says when the hold is over. */
const props = defineProps<{
  /** How long the sheet wants it held, seconds; nothing where it does not say. */
  hold: number | null
}>()
const emit = defineEmits<{ held: [seconds: number, painEnded: boolean] }>()

/** Seconds until the hands lie. */
const LEAD = 3
const words = text.examination.run
const beganAt = ref<number | null>(null)
const now = ref(0)
const ticking = useIntervalFn(tick, 100, { immediate: false })
const since = computed(() => (beganAt.value === null ? 0 : (now.value - beganAt.value) / 1000))
const leading = computed(() => Math.max(0, Math.ceil(-since.value)))
const running = computed(() => beganAt.value !== null)

let sound: AudioContext | null = null
/** Nobody looks at the screen then. */
function beep(high: boolean) {
  if (!sound) return
  const tone = sound.createOscillator()
  tone.frequency.value = high ? 880 : 440
  tone.connect(sound.destination)
  tone.start()
  tone.stop(sound.currentTime + 0.2)
}
onUnmounted(() => void sound?.close())

function tick() {
  const before = since.value
  now.value = performance.now()
  if (before < 0 && since.value >= 0) beep(false)
  if (props.hold && since.value >= props.hold) end(false)
}
function start() {
  // A browser lets a page sound only after somebody touched it, as now.
  if ('AudioContext' in globalThis) sound ??= new AudioContext()
  now.value = performance.now()
  beganAt.value = now.value + LEAD * 1000
  ticking.resume()
}
function end(painEnded: boolean) {
  ticking.pause()
  const seconds = Math.max(0, Math.round(since.value * 10) / 10)
  const led = since.value < 0
  beganAt.value = null
  if (led) return
  beep(true)
  emit('held', seconds, painEnded)
}
defineExpose({
  /** Starts, or ends it: for the keyboard and a foot switch. */
  press: () => (running.value ? end(false) : start()),
  pain: () => running.value && end(true),
})
</script>

<template>
  <div class="timer" role="group" :aria-label="words.timer" data-test="hold-timer">
    <template v-if="running">
      <span class="count" role="timer">{{
        leading ? words.startIn(leading) : words.seconds(Math.floor(since))
      }}</span>
      <span v-if="hold && !leading" class="small muted">{{ words.holdFor(hold) }}</span>
      <v-btn size="large" data-test="timer-end" @click="end(false)">{{ words.stop }}</v-btn>
      <v-btn size="large" color="error" variant="outlined" data-test="timer-pain" @click="end(true)">{{
        words.painEnds
      }}</v-btn>
    </template>
    <v-btn v-else size="large" variant="outlined" data-test="timer-start" @click="start">
      {{ words.start }}<template v-if="hold">, {{ words.holdFor(hold) }}</template>
    </v-btn>
  </div>
</template>

<style scoped>
.timer {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  align-items: center;
}
.count {
  min-width: 7ch;
  font-size: 2.2rem;
  font-weight: 700;
  font-variant-numeric: tabular-nums;
}
</style>
