<script setup lang="ts">
import { mdiClose, mdiPlus } from '@mdi/js'
import { computed } from 'vue'

import { useTest } from '@/shared/api/queries'
import type { AccuracyInput, LevelInput } from '@/shared/api/types'
import IconButton from '@/shared/layout/IconButton.vue'
import { text } from '@/shared/text'
import { typedNumber } from '@/shared/typedNumber'

/** Counts per level of a finding; folded away until a report gives levels. */
const words = defineModel<AccuracyInput>({ required: true })
const props = defineProps<{ testId: string; of: (field: string) => string[] }>()

const levels = computed(() => words.value.levels ?? [])
const test = useTest(() => props.testId)
/** Those of the variant that was done, or of the one that is taught. */
const taught = computed(() => {
  const variants = test.data.value?.variants ?? []
  const done = variants.find((it) => it.name === words.value.variant) ?? variants[0]
  return done?.grading.levels.map((level) => level.name) ?? []
})
const wrong = computed(() => [
  ...props.of('result.levels'),
  ...levels.value.flatMap((_, index) =>
    ['name', 'with', 'without'].flatMap((part) => props.of(`result.levels[${index}].${part}`)),
  ),
])

const level = (name: string): LevelInput => ({ name, with: null, without: null })
const put = (changed: LevelInput[]) => Object.assign(words.value, { levels: changed })
const set = (index: number, part: Partial<LevelInput>) =>
  put(levels.value.map((it, at) => (at === index ? { ...it, ...part } : it)))
</script>

<template>
  <details :open="levels.length > 0 || wrong.length > 0" data-test="levels">
    <summary>{{ text.levels.title }}</summary>
    <p class="small muted">{{ text.levels.about }}</p>
    <div v-for="(it, index) in levels" :key="index" class="level">
      <v-text-field
        :model-value="it.name"
        :label="text.levels.name"
        :error-messages="of(`result.levels[${index}].name`)"
        dir="auto"
        @update:model-value="set(index, { name: $event })"
      />
      <v-text-field
        v-for="part in ['with', 'without'] as const"
        :key="part"
        :model-value="it[part]"
        :label="text.levels[part]"
        type="number"
        min="0"
        step="1"
        inputmode="numeric"
        :error-messages="of(`result.levels[${index}].${part}`)"
        :data-test="`level-${part}-${index}`"
        @update:model-value="set(index, { [part]: typedNumber(String($event ?? '')) })"
      />
      <IconButton
        :icon="mdiClose"
        :label="text.levels.remove(index + 1)"
        @click="put(levels.filter((_, at) => at !== index))"
      />
    </div>
    <p v-for="message in of('result.levels')" :key="message" class="fault small" role="alert">
      {{ message }}
    </p>
    <v-btn
      v-if="!levels.length && taught.length"
      size="small"
      variant="text"
      data-test="take-levels"
      @click="put(taught.map(level))"
    >
      {{ text.levels.take }}
    </v-btn>
    <v-btn :prepend-icon="mdiPlus" size="small" variant="text" @click="put([...levels, level('')])">
      {{ text.levels.add }}
    </v-btn>
  </details>
</template>

<style scoped>
details {
  margin: 12px 0;
}
summary {
  font-weight: 600;
}
.fault {
  color: rgb(var(--v-theme-error));
}
.level {
  display: grid;
  grid-template-columns: 2fr 1fr 1fr auto;
  gap: 12px 8px;
  align-items: start;
  margin-top: 12px;
}
@media (max-width: 600px) {
  .level {
    grid-template-columns: 1fr 1fr auto;
  }
  .level > :first-child {
    grid-column: span 3;
  }
}
</style>
