<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'

import { ApiProblem } from '@/shared/api/client'
import type { BoardRowView } from '@/shared/api/types'
import SampleMark from '@/shared/layout/SampleMark.vue'
import SheetLink from '@/shared/question/SheetLink.vue'
import { useQuestion } from '@/shared/question/useQuestion'
import { text } from '@/shared/text'
import { undoBar } from '@/shared/undo'
import { askForResult } from './extractionActions'
import ProgressMark from './ProgressMark.vue'

/** One result: how far its reading has come, who reads it, and what is to be done next. */
const props = defineProps<{ row: BoardRowView }>()

const words = text.extraction
const router = useRouter()
const { carried } = useQuestion()
const readers = computed(() =>
  props.row.readers.map(({ name, you, done }) => words.reader(you ? words.you : (name ?? words.file), done)),
)
const next = computed(() => {
  const { id, progress, readers } = props.row
  if (!id) return words.again
  if (progress === 'settled') return words.settledHow
  if (progress === 'twice') return words.settle
  const mine = readers.find((reader) => reader.you)
  if (mine) return mine.done ? words.waiting : words.goOn
  return readers.length < 2 ? words.read : ''
})
const busy = ref(false)

const open = (extraction: string) =>
  router.push({ name: 'extraction', params: { extraction }, query: carried.value })
async function act() {
  const { id, result_id } = props.row
  if (id) return open(id)
  busy.value = true
  try {
    const asked = await askForResult(result_id ?? '')
    // Who entered it cannot be the second reader too; it is on the list now for somebody else.
    if (asked.mine) undoBar.offer(words.added)
    else await open(asked.id)
  } catch (cause) {
    if (!(cause instanceof ApiProblem)) throw cause
    undoBar.offer(cause.fields[0]?.message ?? cause.message)
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <tr role="row" data-test="extraction-row">
    <th scope="row" role="rowheader">
      <span dir="auto" class="wrap-anywhere report">{{ row.report }}</span>
      <SampleMark v-if="row.sample" />
      <p v-if="row.about" class="small muted about" dir="auto">{{ row.about }}</p>
    </th>
    <td role="cell">
      <SheetLink :test="row.test.id">{{ row.test.name }}</SheetLink>
    </td>
    <td role="cell" class="small">
      <ProgressMark :progress="row.progress" />
      <p v-if="row.appraised" class="muted">{{ words.appraisal.true }}</p>
    </td>
    <td role="cell" class="small">{{ readers.join(', ') }}</td>
    <td role="cell" class="no-print">
      <v-btn v-if="next" size="small" :loading="busy" data-test="extraction-next" @click="act">{{
        next
      }}</v-btn>
    </td>
  </tr>
</template>

<style scoped>
th {
  font-weight: 600;
}
.report {
  margin-right: 6px;
}
.about {
  font-weight: 400;
}
/* Five columns do not fit beside each other on a phone. */
@media screen and (max-width: 700px) {
  tr {
    display: grid;
    gap: 4px;
    padding: 10px 0;
    border-bottom: 1px solid var(--line);
  }
  tr > th,
  tr > td {
    padding: 0;
    border: 0;
  }
}
</style>
