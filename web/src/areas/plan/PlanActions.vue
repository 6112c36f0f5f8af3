<script setup lang="ts">
import { mdiClose, mdiPlus } from '@mdi/js'
import { computed } from 'vue'

import type { PlanAction, ActionBandInput } from '@/shared/api/types'
import IconButton from '@/shared/layout/IconButton.vue'
import ShareField from '@/shared/question/ShareField.vue'
import { text } from '@/shared/text'
import type { PlanQuestion } from './planDraft'

/** What is done between the thresholds of a condition, and above them. */
const props = defineProps<{ question: PlanQuestion; of: (field: string) => string[] }>()
const emit = defineEmits<{ change: [change: Partial<PlanQuestion>] }>()

const words = text.plan.questions
const ACTIONS = (Object.keys(words.actions) as PlanAction[]).filter((it) => it !== 'reassure')
const items = (own: PlanAction | null | undefined) => {
  const taken = new Set<unknown>([...props.question.between.map((it) => it.action), props.question.above])
  const free = ACTIONS.filter((it) => it === own || !taken.has(it))
  return free.map((value) => ({ value, title: words.actions[value] }))
}
const faulty = computed(() =>
  [
    'above',
    ...props.question.between.flatMap((_, nth) => [`between[${nth}].action`, `between[${nth}].from`]),
  ].some((field) => props.of(field).length),
)
const set = (nth: number, change: Partial<ActionBandInput>) =>
  emit('change', {
    between: props.question.between.map((it, at) => (at === nth ? { ...it, ...change } : it)),
  })
const add = () =>
  emit('change', {
    between: [...props.question.between, { action: items(null)[0]?.value ?? null, from: null }],
  })
const remove = (nth: number) =>
  emit('change', { between: props.question.between.filter((_, at) => at !== nth) })
</script>

<template>
  <details class="no-print" :open="faulty || undefined" data-test="plan-actions">
    <summary class="small" :aria-label="words.moreOf(question.condition)">{{ words.more }}</summary>
    <p class="small muted">{{ words.betweenAbout }}</p>
    <div v-for="(it, nth) in question.between" :key="nth" class="band" data-test="action-band">
      <v-select
        :model-value="it.action ?? null"
        :items="items(it.action)"
        :label="words.action"
        :error-messages="of(`between[${nth}].action`)"
        density="compact"
        hide-details="auto"
        data-test="band-action"
        @update:model-value="set(nth, { action: $event })"
      />
      <ShareField
        :model-value="it.from"
        :label="words.fromLabel"
        :errors="of(`between[${nth}].from`)"
        data-test="band-from"
        @update:model-value="set(nth, { from: $event })"
      />
      <IconButton
        :icon="mdiClose"
        :label="words.removeAction(it.action ? words.actions[it.action] : '')"
        @click="remove(nth)"
      />
    </div>
    <div class="band">
      <v-select
        :model-value="question.above ?? 'treat'"
        :items="items(question.above)"
        :label="words.aboveLabel"
        :error-messages="of('above')"
        density="compact"
        hide-details="auto"
        data-test="action-above"
        @update:model-value="emit('change', { above: $event })"
      />
    </div>
    <v-btn
      v-if="items(null).length"
      size="small"
      variant="text"
      :prepend-icon="mdiPlus"
      data-test="add-action"
      @click="add"
    >
      {{ words.addAction }}
    </v-btn>
  </details>
</template>

<style scoped>
.band {
  display: grid;
  grid-template-columns: minmax(0, 2fr) minmax(0, 1fr) 32px;
  gap: 8px;
  align-items: start;
  max-width: 560px;
  margin-top: 8px;
}
</style>
