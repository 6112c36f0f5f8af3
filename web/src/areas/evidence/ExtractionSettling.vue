<script setup lang="ts">
import { computed, ref } from 'vue'

import type { DoubleExtractionView, ExtractionInput, FieldPair } from '@/shared/api/types'
import { text } from '@/shared/text'
import { useSaving } from '@/shared/useSaving'
import { settle } from './extractionActions'
import { fieldLabel } from './extractionWords'
import SettlingRow, { REASONS, type Standing } from './SettlingRow.vue'

/** What two read, field by field: where they differ one is chosen, or something else, with the reason. */
const props = defineProps<{ view: DoubleExtractionView }>()

const words = text.extraction
const both = computed(() => props.view.compared ?? null)
const fields = computed(() => both.value?.fields ?? [])
const filled = computed(() => fields.value.filter((it) => it.first !== null || it.second !== null))
const same = computed(() => filled.value.filter((it) => it.same).length)
const name = (index: number) => {
  const reader = props.view.readers[index]
  return reader?.you ? words.you : (reader?.name ?? words.file)
}

/** Of words of one's own that differ the first reader's stand until somebody chooses; numbers and choices are open. */
function beginning({ kind, same, first, second }: FieldPair): Standing {
  if (same) return { of: 'first', own: first, reason: '' }
  if (kind === 'words') return { of: first === null ? 'second' : 'first', own: first ?? second, reason: '' }
  return { of: null, own: null, reason: '' }
}
const standing = ref<Record<string, Standing>>(
  Object.fromEntries(fields.value.map((pair) => [pair.field, beginning(pair)])),
)
const changed = (pair: FieldPair) => standing.value[pair.field]?.of === 'own'
const everything = ref(false)
const shown = computed(() =>
  (everything.value ? fields.value : fields.value.filter((pair) => !pair.same || changed(pair))).filter(
    (pair) => everything.value || pair.first !== null || pair.second !== null || changed(pair),
  ),
)
const open = computed(() => fields.value.filter((pair) => standing.value[pair.field]?.of === null).length)

const tried = ref(false)
const { failure, errors, saving, begin, save } = useSaving(words.settledMeanwhile)
begin(0)
const of = (field: string) =>
  errors.value
    .filter((error) => error.field === field || error.field === `reasons.${field}`)
    .map((error) => `${error.message} ${error.remedy}`)
const elsewhere = computed(() =>
  errors.value.filter(
    (error) => !fields.value.some(({ field }) => error.field === field || error.field === `reasons.${field}`),
  ),
)

function value({ field, first, second }: FieldPair): unknown {
  const chosen = standing.value[field]
  if (chosen?.of === 'own') return chosen.own
  return chosen?.of === 'second' ? second : first
}
/** The first reader's text with what stands put in; a field of words that says nothing is an empty text, and levels are an
 *  empty list. */
function settled(): ExtractionInput {
  const whole = JSON.parse(JSON.stringify(both.value?.first)) as ExtractionInput
  for (const pair of fields.value) {
    const path = pair.field.split('.')
    const last = path.pop() ?? ''
    const place = path.reduce<Record<string, unknown>>(
      (at, name) => (at[name] ??= {}) as Record<string, unknown>,
      whole as never,
    )
    const typed = pair.kind === 'words' || pair.field === 'result.variant'
    const nothing = pair.field === 'result.levels' ? [] : typed ? '' : null
    place[last] = value(pair) ?? nothing
  }
  whole.result.note = [both.value?.first.result.note, both.value?.second.result.note]
    .filter((note, index, notes) => note && notes.indexOf(note) === index)
    .join('\n')
  return whole
}
async function submit() {
  tried.value = true
  if (open.value) return
  const reasons = Object.fromEntries(
    Object.entries(standing.value).flatMap(([field, { reason }]) =>
      reason.trim() ? [[field, reason.trim()]] : [],
    ),
  )
  await save(() => settle(props.view, settled(), reasons))
  // A field that is refused must be seen.
  if (errors.value.some(({ field }) => !shown.value.some((it) => field.endsWith(it.field))))
    everything.value = true
}
</script>

<template>
  <section>
    <h2>{{ words.compareTitle }}</h2>
    <p data-test="same-of">{{ words.sameOf(same, filled.length) }}</p>
    <form novalidate @submit.prevent="submit">
      <p v-if="failure" class="failure" role="alert">{{ failure }}</p>
      <p v-for="error in elsewhere" :key="error.field" class="failure" role="alert">
        {{ fieldLabel(error.field) }}: {{ error.message }} {{ error.remedy }}
      </p>
      <v-checkbox
        v-model="everything"
        :label="words.all"
        density="compact"
        hide-details
        data-test="all-fields"
      />
      <table v-if="shown.length" class="plain-table stacked" data-test="compared">
        <thead>
          <tr class="small">
            <th scope="col">{{ words.field }}</th>
            <th scope="col">{{ words.first }} ({{ name(0) }})</th>
            <th scope="col">{{ words.second }} ({{ name(1) }})</th>
            <th scope="col">{{ words.other }}</th>
            <th scope="col">{{ words.reason }}</th>
          </tr>
        </thead>
        <tbody>
          <SettlingRow
            v-for="pair in shown"
            :key="pair.field"
            v-model="standing[pair.field]!"
            :pair="pair"
            :others="both?.others ?? []"
            :errors="of(pair.field)"
            :missing="tried"
            :readers="[`${words.first} (${name(0)})`, `${words.second} (${name(1)})`]"
          />
        </tbody>
      </table>
      <datalist :id="REASONS">
        <option v-for="reason in words.reasons" :key="reason" :value="reason" />
      </datalist>
      <div class="foot">
        <v-btn type="submit" variant="flat" color="primary" :loading="saving" data-test="settle">
          {{ words.save }}
        </v-btn>
        <span
          class="small"
          :class="tried && open ? 'failure' : 'muted'"
          aria-live="polite"
          data-test="open-differences"
        >
          {{ words.open(open) }}
        </span>
      </div>
    </form>
  </section>
</template>

<style scoped>
.foot {
  align-items: center;
  margin-top: 12px;
}
</style>
