<script setup lang="ts">
import type { UseQueryReturnType } from '@tanstack/vue-query'
import { computed } from 'vue'

import type { Change } from '@/shared/api/types'
import { moment } from '@/shared/format'
import FailureNotice from '@/shared/layout/FailureNotice.vue'
import WaitLine from '@/shared/layout/WaitLine.vue'
import { text } from '@/shared/text'
import { put, title } from './recordWords'

/** Changes of studies, structures or conditions, the newest first; an earlier text can be brought back. */
const props = defineProps<{
  query: UseQueryReturnType<Change[], Error>
  editable: boolean
  busy: boolean
  heading?: 'h2'
  /** Names of tests that records know by their numbers. */
  names?: Map<string, string>
}>()
const emit = defineEmits<{ restore: [change: Change, newest: Change] }>()

const changes = computed(() => {
  const list = props.query.data.value ?? []
  const newest = new Map<string, Change>()
  const listed = new Set(list.map((change) => `${change.record_id} ${change.version}`))
  return list.map((change) => {
    if (!newest.has(change.record_id)) newest.set(change.record_id, change)
    const last = newest.get(change.record_id) ?? change
    const earlier = change.version - 1
    let offered: Change | null = change === last || change.action === 'deleted' ? null : change
    // What is deleted comes back first, as it was; its earlier texts after that. A study comes back with its result.
    if (last.action === 'deleted') offered = change === last && change.kind !== 'study' ? change : null
    // The text that it began with came with the program and is not listed by itself.
    else if (change.before && change === last && !listed.has(`${change.record_id} ${earlier}`))
      offered = { ...change, content: change.before, version: earlier }
    // What an undone import had brought is gone, and what it had changed is as it was.
    if (last.action === 'taken_back') offered = null
    // An earlier appraisal is judged anew, not brought back: it is a judgement of today.
    if (change.kind === 'appraisal') offered = null
    return { ...change, change, last, offered, fields: put(change, props.names) }
  })
})
function restoring(change: Change, offered: Change): string {
  if (change.action === 'deleted') return text.review.undelete
  return offered === change ? text.review.restore : text.review.takeBack
}
const words = (action: string) => text.review.actions[action] ?? action
</script>

<template>
  <FailureNotice v-if="query.isError.value && !changes.length" :query="query" :title="text.review.failed" />
  <WaitLine v-else-if="query.isPending.value" />
  <p v-else-if="!changes.length" class="muted">{{ text.review.noChange }}</p>
  <ol v-else>
    <li
      v-for="entry in changes"
      :key="`${entry.record_id} ${entry.version}`"
      class="small"
      data-test="change"
    >
      <header>
        <component :is="heading ?? 'h3'" class="title wrap-anywhere" dir="auto">
          {{ title(entry.change) }}
          <span v-if="text.review.kinds[entry.kind]" class="small muted">{{
            text.review.kinds[entry.kind]
          }}</span>
        </component>
        <v-btn
          v-if="editable && entry.offered"
          size="small"
          :disabled="busy"
          data-test="bring-back"
          @click="emit('restore', entry.offered, entry.last)"
        >
          {{ restoring(entry.change, entry.offered) }}
        </v-btn>
      </header>
      <p class="muted">
        {{ words(entry.action) }},
        {{ text.review.versionBy(entry.version, entry.by ?? null, moment(entry.at)) }}
      </p>
      <dl v-if="entry.fields.length">
        <template v-for="field in entry.fields" :key="field.label">
          <dt>{{ field.label }}</dt>
          <dd class="wrap-anywhere pre-line" dir="auto">
            <template v-if="entry.before">
              <del>{{ field.before || text.review.nothing }}</del> →
            </template>
            {{ field.after || text.review.nothing }}
          </dd>
        </template>
      </dl>
    </li>
  </ol>
</template>

<style scoped>
ol {
  max-width: 900px;
  padding: 0;
  list-style: none;
}
li {
  padding: 12px 0;
  border-top: 1px solid var(--line);
}
header {
  display: flex;
  align-items: flex-start;
  justify-content: space-between;
  gap: 16px;
}
dl {
  display: grid;
  grid-template-columns: minmax(140px, max-content) 1fr;
  gap: 2px 14px;
  margin-top: 4px;
}
@media (max-width: 600px) {
  dl {
    grid-template-columns: 1fr;
  }
  dd {
    margin-bottom: 6px;
  }
}
dt,
del {
  color: var(--muted);
}
</style>
