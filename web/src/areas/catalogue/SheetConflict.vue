<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'

import type { SheetInput, TestView } from '@/shared/api/types'
import { text } from '@/shared/text'
import { sheetInput } from './sheetDraft'
import { contested, type Contested, merged } from './sheetMerge'

/** What two people changed in one sheet: of fields that one of them changed that text is taken, the others are decided here. */
const props = defineProps<{ base: SheetInput | null; mine: SheetInput; theirs: TestView }>()
const emit = defineEmits<{ settled: [merged: SheetInput] }>()

const words = text.editor.conflict
const saved = computed(() => sheetInput(props.theirs))
const fields = computed(() => contested(props.base, props.mine, saved.value))
const decided = computed(() => fields.value.filter(({ by }) => by !== 'both'))
const asked = computed(() => fields.value.filter(({ by }) => by === 'both'))
/** By the path of the field: whose text stands. */
const choice = ref<Record<string, 'me' | 'them'>>({})
const whose = ({ path, by }: Contested) => choice.value[path] ?? (by === 'both' ? null : by)
const open = computed(() => asked.value.filter((field) => !whose(field)).length)

// It comes while somebody looks elsewhere on the page.
const place = ref<HTMLElement | null>(null)
onMounted(() => place.value?.scrollIntoView({ block: 'start' }))

function settle() {
  const taken = fields.value.filter((field) => whose(field) === 'them').map(({ path }) => path)
  emit('settled', merged(props.mine, saved.value, taken))
}
</script>

<template>
  <section ref="place" class="conflict" role="alert" data-test="conflict">
    <h2>{{ words.title }}</h2>
    <p>{{ words.detail }}</p>
    <p v-if="!fields.length">{{ words.same }}</p>
    <template
      v-for="[title, list] in [
        [words.asked, asked],
        [words.decided, decided],
      ] as const"
      :key="title"
    >
      <h3 v-if="list.length">{{ title }}</h3>
      <fieldset v-for="field in list" :key="field.path" class="field" :data-test="`contested-${field.by}`">
        <legend>{{ field.label }}</legend>
        <label v-for="side in ['me', 'them'] as const" :key="side">
          <span class="small muted">
            <input
              type="radio"
              :name="field.path"
              :checked="whose(field) === side"
              :data-test="`take-${side}-${field.path}`"
              @change="choice[field.path] = side"
            />
            {{ words[side] }}
          </span>
          <span class="pre-line wrap-anywhere" dir="auto">{{
            (side === 'me' ? field.one : field.other) || text.review.nothing
          }}</span>
        </label>
      </fieldset>
    </template>
    <div class="foot">
      <v-btn color="primary" variant="flat" :disabled="open > 0" data-test="settle" @click="settle">
        {{ words.done }}
      </v-btn>
      <span v-if="open" class="small" data-test="contested-open">{{ words.open(open) }}</span>
    </div>
  </section>
</template>

<style scoped>
.conflict {
  max-width: 860px;
  margin-bottom: 18px;
  padding: 16px 18px;
  border: 2px solid rgb(var(--v-theme-error));
  border-radius: 8px;
  scroll-margin-top: 70px;
}
h3 {
  margin-top: 14px;
}
.field {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 4px 20px;
  margin: 8px 0;
  padding: 8px 0 0;
  border: 0;
  border-top: 1px solid var(--line);
}
.field legend {
  float: left;
  grid-column: 1 / -1;
  font-weight: 600;
}
label {
  display: grid;
  gap: 2px;
  align-content: start;
  cursor: pointer;
}
input {
  accent-color: rgb(var(--v-theme-primary));
}
.foot {
  align-items: center;
  margin-top: 14px;
}
@media (max-width: 600px) {
  .field {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
