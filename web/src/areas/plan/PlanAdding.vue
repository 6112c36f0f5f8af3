<script setup lang="ts">
import { computed, ref } from 'vue'

import type { OfferedTest } from '@/shared/api/types'
import { text } from '@/shared/text'

/** A test to add to a plan: those of the basic examination first, then those that put the suspected structure under test. */
const props = defineProps<{ offered: OfferedTest[] }>()
const emit = defineEmits<{ add: [test: string] }>()

const words = text.plan.list
const mechanism = ref<string | null>(null)
const structure = ref<string | null>(null)
const adding = ref<string | null>(null)
const distinct = (of: (it: OfferedTest) => string[]) => [...new Set(props.offered.flatMap(of))].sort()
const mechanisms = computed(() => distinct((it) => it.mechanisms))
const structures = computed(() => distinct((it) => it.structures))
const loads = (it: OfferedTest) => !!structure.value && it.structures.includes(structure.value)
/** The basic examination is for every mechanism. */
const fitting = computed(() =>
  props.offered.filter((it) => !mechanism.value || it.basis || it.mechanisms.includes(mechanism.value)),
)
const rank = (it: OfferedTest) => (it.basis ? 0 : loads(it) ? 1 : 2)
const items = computed(() =>
  [...fitting.value]
    .sort((a, b) => rank(a) - rank(b))
    .map((it) => ({
      value: it.test,
      title: it.name,
      subtitle: [
        it.basis ? words.basic(text.basis[it.basis]) : '',
        loads(it) ? words.loads(structure.value ?? '') : '',
      ]
        .filter(Boolean)
        .join('; '),
    })),
)
function add(test: string | null) {
  if (test) emit('add', test)
  adding.value = null
}
</script>

<template>
  <div class="adding">
    <v-select
      v-if="mechanisms.length"
      v-model="mechanism"
      :items="mechanisms"
      :label="words.mechanism"
      clearable
      density="compact"
      hide-details
      data-test="add-mechanism"
    />
    <v-select
      v-if="structures.length"
      v-model="structure"
      :items="structures"
      :label="words.structure"
      clearable
      density="compact"
      hide-details
      data-test="add-structure"
    />
    <v-autocomplete
      :key="offered.length"
      v-model="adding"
      class="add"
      :items="items"
      :item-props="({ subtitle }: { subtitle: string }) => ({ subtitle: subtitle || undefined })"
      :label="words.add"
      :no-data-text="mechanism ? words.noneFits : undefined"
      auto-select-first
      hide-details
      data-test="add-test"
      @update:model-value="add"
    />
  </div>
</template>

<style scoped>
.adding {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(200px, 1fr));
  gap: 10px;
  margin-top: 14px;
}
.add {
  grid-column: 1 / -1;
}
</style>
