<script lang="ts">
/** The list of usual reasons, once a page. */
export const REASONS = 'usual-reasons'

/** What stands in a field: what a reader said, or something else; open while nobody has chosen. */
export interface Standing {
  of: 'first' | 'second' | 'own' | null
  own: unknown
  reason: string
}
</script>

<script setup lang="ts">
import { computed, ref } from 'vue'

import type { FieldPair, NamedTest } from '@/shared/api/types'
import { text } from '@/shared/text'
import { typedNumber } from '@/shared/typedNumber'
import { fieldChoices, fieldLabel, valueWords } from './extractionWords'

const standing = defineModel<Standing>({ required: true })
const props = defineProps<{
  pair: FieldPair
  others: NamedTest[]
  errors: string[]
  missing: boolean
  /** How the two are called at the head of their columns. */
  readers: [string, string]
}>()

const words = text.extraction
const choices = computed(() => fieldChoices(props.pair.field))
const label = computed(() => fieldLabel(props.pair.field))
const said = (reader: 'first' | 'second') => valueWords(props.pair.field, props.pair[reader], props.others)
/** Which tests were read together, and counts per level, are not typed here: one of the two stands. */
const typable = computed(() => !['result.together', 'result.levels'].includes(props.pair.field))
const typed = ref(standing.value.own === null ? '' : String(standing.value.own))
const noNumber = computed(
  () => standing.value.of === 'own' && props.pair.kind === 'number' && Number.isNaN(typedNumber(typed.value)),
)

function choose(of: Standing['of']) {
  standing.value = { ...standing.value, of }
}
function own(value: string | null) {
  typed.value = value ?? ''
  // What is no number is sent as one that cannot be, so that it is refused and not left out.
  const number = typedNumber(typed.value)
  const read = props.pair.kind === 'number' ? (Number.isNaN(number) ? -1 : number) : value || null
  standing.value = { ...standing.value, of: 'own', own: read }
}
const reasonErrors = computed(() => {
  if (props.missing && standing.value.of === null) return [words.choose]
  return props.errors
})
</script>

<template>
  <tr :data-test="`settle-${pair.field}`">
    <th scope="row">{{ label }}</th>
    <td v-if="pair.same" colspan="2">
      <label class="answer">
        <input type="radio" :name="pair.field" :checked="standing.of === 'first'" @change="choose('first')" />
        <span class="wrap-anywhere" dir="auto">{{ said('first') }}</span>
        <span class="small muted">{{ words.both }}</span>
      </label>
    </td>
    <template v-else>
      <td v-for="(reader, at) in ['first', 'second'] as const" :key="reader" :data-label="readers[at]">
        <label class="answer">
          <input
            type="radio"
            :name="pair.field"
            :checked="standing.of === reader"
            :data-test="`take-${reader}`"
            @change="choose(reader)"
          />
          <span class="wrap-anywhere" dir="auto">{{ said(reader) }}</span>
        </label>
      </td>
    </template>
    <td class="own" :data-label="words.other">
      <v-btn
        v-if="typable && standing.of !== 'own'"
        size="small"
        variant="text"
        data-test="take-own"
        @click="choose('own')"
      >
        {{ words.change }}
      </v-btn>
      <v-select
        v-else-if="typable && choices"
        :model-value="(standing.own as string | null) ?? null"
        :items="choices"
        :aria-label="`${label}: ${words.other}`"
        clearable
        density="compact"
        @update:model-value="own"
      />
      <v-text-field
        v-else-if="typable"
        :model-value="typed"
        :aria-label="`${label}: ${words.other}`"
        :error-messages="noNumber ? text.setup.noNumber : ''"
        density="compact"
        dir="auto"
        data-test="own"
        @update:model-value="own"
      />
    </td>
    <td class="reason" :data-label="words.reason">
      <v-text-field
        v-if="!pair.same || standing.of === 'own'"
        :model-value="standing.reason"
        :list="REASONS"
        :aria-label="`${label}: ${words.reason}`"
        :error-messages="reasonErrors"
        density="compact"
        autocomplete="off"
        dir="auto"
        data-test="reason"
        @update:model-value="standing = { ...standing, reason: $event }"
      />
      <p v-else-if="errors.length" class="failure small" role="alert">{{ errors.join(' ') }}</p>
    </td>
  </tr>
</template>

<style scoped>
th {
  font-weight: 600;
}
.answer {
  display: flex;
  gap: 8px;
  align-items: baseline;
  cursor: pointer;
}
input[type='radio'] {
  flex: none;
  accent-color: rgb(var(--v-theme-primary));
}
.own {
  width: 150px;
  min-width: 110px;
}
.reason {
  width: 26%;
  min-width: 150px;
}
td {
  overflow-wrap: break-word;
}
@media screen and (max-width: 600px) {
  .answer {
    min-height: 44px;
    align-items: center;
  }
}
@media (max-width: 900px) {
  .answer .wrap-anywhere {
    overflow-wrap: break-word;
    font-size: 0.875rem;
  }
}
</style>
