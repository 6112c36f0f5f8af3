<script setup lang="ts">
import { mdiDeleteOutline, mdiPencilOutline, mdiPlus } from '@mdi/js'
import { computed, ref, watch, watchEffect } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { api, data } from '@/shared/api/client'
import { useTeachingConflicts } from '@/shared/api/queries'
import type { TeachingConflictView } from '@/shared/api/types'
import FailureNotice from '@/shared/layout/FailureNotice.vue'
import IconButton from '@/shared/layout/IconButton.vue'
import StateNotice from '@/shared/layout/StateNotice.vue'
import WaitLine from '@/shared/layout/WaitLine.vue'
import { choice, options, useListPage } from '@/shared/question/useListPage'
import { useQuestion } from '@/shared/question/useQuestion'
import { at, removeWithUndo } from '@/shared/recordChanges'
import { may } from '@/shared/session/session'
import { text } from '@/shared/text'
import { useShortcuts } from '@/shared/useShortcuts'
import ConflictDialog from './ConflictDialog.vue'
import ConflictEntry from './ConflictEntry.vue'

/** The register of conflicting teaching of a region. */
const words = text.conflicts
const route = useRoute()
const router = useRouter()
const { region } = useQuestion()
const list = useListPage({ choices: { verdict: choice(words.verdicts) }, flags: [] })
const conflicts = useTeachingConflicts(() => ({ region: region.value }))
const all = computed(() => conflicts.data.value ?? [])
const shown = computed(() =>
  all.value.filter((it) => !list.chosen.value.verdict || it.verdict === list.chosen.value.verdict),
)

const open = ref(false)
const edited = ref<TeachingConflictView | null>(null)
/** What a check of a sheet found, which begins an entry. */
const began = ref<{ test: string; question: string } | null>(null)
function edit(entry: TeachingConflictView | null) {
  edited.value = entry
  open.value = true
}
watch(
  () => route.query.file,
  (test) => {
    if (typeof test !== 'string' || !may('write_sheets')) return
    began.value = { test, question: String(route.query.found ?? '') }
    edit(null)
    // Once: a reload does not begin it again.
    void router.replace({ query: { ...route.query, file: undefined, found: undefined } })
  },
  { immediate: true },
)
watch(open, (shown) => {
  if (!shown) began.value = null
})
const remove = (entry: TeachingConflictView) =>
  removeWithUndo(
    words.removed,
    async () => data(await api.DELETE('/api/v1/teaching-conflicts/{id}', at(entry.id, entry.version))),
    (version) => api.POST('/api/v1/teaching-conflicts/{id}/restore', at(entry.id, version)),
  )
useShortcuts({ n: () => may('write_sheets') && edit(null) })
watchEffect(() => (document.title = `${words.title} – Pruvex`))
</script>

<template>
  <div>
    <div class="title-bar">
      <h1>{{ words.of(text.regions[region]) }}</h1>
      <v-btn
        v-if="may('write_sheets')"
        class="no-print"
        :prepend-icon="mdiPlus"
        data-test="add-conflict"
        @click="edit(null)"
      >
        {{ words.add }}
      </v-btn>
    </div>
    <p class="muted about">{{ words.about }}</p>
    <WaitLine :active="conflicts.isFetching.value" />
    <FailureNotice v-if="conflicts.isError.value && !all.length" :query="conflicts" :title="words.failed" />
    <StateNotice
      v-else-if="conflicts.isSuccess.value && !all.length"
      :title="words.none"
      :detail="words.noneDetail"
    />
    <template v-else-if="all.length">
      <v-select
        class="filter no-print"
        :model-value="list.chosen.value.verdict ?? null"
        :items="options(words.verdicts)"
        :label="words.filter"
        clearable
        hide-details
        data-test="conflict-verdict-filter"
        @update:model-value="list.choose({ verdict: $event })"
      />
      <StateNotice v-if="!shown.length" :title="words.noneFits" />
      <ConflictEntry v-for="entry in shown" :key="entry.id" :entry="entry" heading="h2">
        <span v-if="may('write_sheets')" class="no-print acts">
          <IconButton
            :icon="mdiPencilOutline"
            :label="`${words.edit}: ${entry.question}`"
            :hint="words.edit"
            @click="edit(entry)"
          />
          <IconButton
            :icon="mdiDeleteOutline"
            :label="`${words.remove}: ${entry.question}`"
            :hint="words.remove"
            @click="remove(entry)"
          />
        </span>
      </ConflictEntry>
    </template>
    <ConflictDialog v-model:open="open" :entry="edited" :region="region" :began="began" />
  </div>
</template>

<style scoped>
.about {
  max-width: 76ch;
  margin: 4px 0 14px;
}
.filter {
  max-width: 300px;
  margin-bottom: 16px;
}
.acts {
  flex: none;
}
</style>
