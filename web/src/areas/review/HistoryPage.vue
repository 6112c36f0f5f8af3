<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, watchEffect } from 'vue'
import { useRouter } from 'vue-router'

import { differences } from '@/areas/catalogue/sheetDifferences'
import { api, data } from '@/shared/api/client'
import { useTest } from '@/shared/api/queries'
import { moment } from '@/shared/format'
import FailureNotice from '@/shared/layout/FailureNotice.vue'
import WaitLine from '@/shared/layout/WaitLine.vue'
import { useQuestion } from '@/shared/question/useQuestion'
import { may } from '@/shared/session/session'
import { text } from '@/shared/text'
import ChangeList from './ChangeList.vue'
import { useRestoring } from './useRestoring'

const props = defineProps<{ id: string }>()

const router = useRouter()
const { carried } = useQuestion()
const test = useTest(() => props.id)
const history = useQuery({
  queryKey: ['history', computed(() => props.id)],
  queryFn: async () =>
    data(await api.GET('/api/v1/tests/{id}/history', { params: { path: { id: props.id } } })),
})
const versions = computed(() => {
  const list = history.data.value ?? []
  return list.map((revision, index) => {
    const before = list[index + 1]
    return { ...revision, changes: before ? differences(before.sheet, revision.sheet) : [] }
  })
})
const sheetPage = computed(() => ({ name: 'sheet', params: { id: props.id }, query: carried.value }))
watchEffect(() => (document.title = `${text.review.history}: ${test.data.value?.name ?? ''} – Pruvex`))

const studies = useQuery({
  queryKey: ['study-history', computed(() => props.id)],
  queryFn: async () =>
    data(await api.GET('/api/v1/tests/{id}/results/history', { params: { path: { id: props.id } } })),
})

const { busy, failure, run, restore: restoreStudy } = useRestoring()
async function restore(version: number) {
  const header = { 'If-Match': `"${test.data.value?.version}"` }
  const request = { params: { path: { id: props.id }, header }, body: { version } }
  if (await run(() => api.POST('/api/v1/tests/{id}/restore', request), text.review.restored(version)))
    await router.push(sheetPage.value)
}
</script>

<template>
  <div>
    <nav class="small" :aria-label="text.layout.back">
      <router-link :to="sheetPage">← {{ test.data.value?.name ?? text.review.sheet }}</router-link>
    </nav>
    <h1>{{ text.review.history }}</h1>
    <FailureNotice
      v-if="history.isError.value && !versions.length"
      :query="history"
      :title="text.review.failed"
    />
    <WaitLine v-else-if="history.isPending.value" />
    <p v-if="failure" role="alert" class="failure">{{ failure }}</p>
    <ol class="versions">
      <li v-for="(entry, index) in versions" :key="entry.version" data-test="version">
        <header>
          <h2>
            {{ text.review.actions[entry.action] ?? entry.action }}
            <span class="small muted">
              {{ text.review.versionBy(entry.version, entry.by ?? null, moment(entry.at)) }}
            </span>
          </h2>
          <v-btn
            v-if="index > 0 && may('write_sheets')"
            :disabled="busy || !test.data.value"
            :data-test="`restore-${entry.version}`"
            @click="restore(entry.version)"
          >
            {{ text.review.restore }}
          </v-btn>
        </header>
        <p v-if="entry.comment" class="comment wrap-anywhere" dir="auto">“{{ entry.comment }}”</p>
        <div v-for="change in entry.changes" :key="change.path" class="change">
          <h3>{{ change.label }}</h3>
          <p class="pre-line wrap-anywhere before" dir="auto">
            <span class="small muted">{{ text.review.before }}</span><br />{{
              change.one || text.review.nothing
            }}
          </p>
          <p class="pre-line wrap-anywhere" dir="auto">
            <span class="small muted">{{ text.review.after }}</span><br />{{
              change.other || text.review.nothing
            }}
          </p>
        </div>
      </li>
    </ol>
    <section class="studies">
      <h2>{{ text.review.results }}</h2>
      <ChangeList :query="studies" :editable="may('write_studies')" :busy="busy" @restore="restoreStudy" />
    </section>
  </div>
</template>

<style scoped>
.versions {
  max-width: 900px;
  margin-top: 14px;
  padding: 0;
  list-style: none;
}
.versions > li {
  padding: 14px 0;
  border-top: 1px solid var(--line);
}
header {
  display: flex;
  align-items: flex-start;
  justify-content: space-between;
  gap: 16px;
}
h2 span {
  margin-left: 8px;
  font-family: var(--font-text);
  font-weight: 400;
}
.comment {
  margin-top: 4px;
  font-style: italic;
}
.change {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 2px 24px;
  margin-top: 10px;
}
.change h3 {
  grid-column: 1 / -1;
}
.before {
  color: var(--muted);
}
.studies {
  margin-top: 30px;
}
.studies h2 {
  margin-bottom: 8px;
}
</style>
