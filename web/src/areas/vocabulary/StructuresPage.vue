<script setup lang="ts">
import { mdiMagnify, mdiPencilOutline, mdiPlus } from '@mdi/js'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watchEffect } from 'vue'

import { joints, loadRoles, motions, tissues } from '@/areas/catalogue/sheetWords'
import { api, data } from '@/shared/api/client'
import type { StructureRow } from '@/shared/api/types'
import FailureNotice from '@/shared/layout/FailureNotice.vue'
import IconButton from '@/shared/layout/IconButton.vue'
import StateNotice from '@/shared/layout/StateNotice.vue'
import WaitLine from '@/shared/layout/WaitLine.vue'
import SheetLink from '@/shared/question/SheetLink.vue'
import { useQuestion } from '@/shared/question/useQuestion'
import { may } from '@/shared/session/session'
import { text } from '@/shared/text'
import ConditionSection from './ConditionSection.vue'
import StructureDialog from './StructureDialog.vue'

/** The vocabulary of the region, and which tests load each structure. */
const { region, carried } = useQuestion()
const structures = useQuery({
  queryKey: ['structures', computed(() => region.value)],
  queryFn: async () =>
    data(await api.GET('/api/v1/structures', { params: { query: { region: region.value } } })),
})
const search = ref('')
const rows = computed(() => {
  const wanted = search.value?.trim().toLowerCase() ?? ''
  const names = (row: StructureRow) => [row.name, ...row.other_names].join(' ').toLowerCase()
  return (structures.data.value ?? []).filter((row) => names(row).includes(wanted))
})
const picked = ref<string | null>(null)
const loading = useQuery({
  queryKey: ['loading', computed(() => picked.value)],
  queryFn: async () =>
    data(await api.GET('/api/v1/structures/{id}/tests', { params: { path: { id: picked.value ?? '' } } })),
  enabled: computed(() => !!picked.value),
})
const editing = ref<StructureRow | null>(null)
const dialog = ref(false)
function edit(row: StructureRow | null) {
  editing.value = row
  dialog.value = true
}
const actions = (row: StructureRow) =>
  row.actions.map((action) => `${motions[action.motion]} of the ${joints[action.joint]}`).join(', ')
watchEffect(() => (document.title = `${text.vocabulary.title} – Pruvex`))
</script>

<template>
  <div>
    <div class="heading">
      <h1>{{ text.vocabulary.structures(text.regions[region]) }}</h1>
      <v-spacer />
      <v-btn
        v-if="may('read_drafts')"
        variant="text"
        :to="{ name: 'vocabulary-history', query: carried }"
        data-test="vocabulary-history"
      >
        {{ text.review.history }}
      </v-btn>
      <v-btn v-if="may('write_sheets')" :prepend-icon="mdiPlus" data-test="add-structure" @click="edit(null)">
        {{ text.vocabulary.add }}
      </v-btn>
    </div>
    <p class="muted about">{{ text.vocabulary.about }}</p>
    <v-text-field
      v-model="search"
      class="search"
      :label="text.vocabulary.find"
      :prepend-inner-icon="mdiMagnify"
      clearable
      hide-details
    />
    <WaitLine :active="structures.isFetching.value" />
    <FailureNotice
      v-if="structures.isError.value && !rows.length"
      :query="structures"
      :title="text.vocabulary.failed"
    />
    <StateNotice v-else-if="structures.isSuccess.value && !rows.length" :title="text.vocabulary.empty" />
    <table v-else-if="rows.length" class="stacked">
      <thead>
        <tr>
          <th scope="col">{{ text.vocabulary.name }}</th>
          <th scope="col">{{ text.vocabulary.tissue }}</th>
          <th scope="col">{{ text.vocabulary.actions }}</th>
          <th scope="col">{{ text.catalogue.test }}</th>
          <th>
            <span class="visually-hidden">{{ text.study.actions }}</span>
          </th>
        </tr>
      </thead>
      <tbody>
        <template v-for="row in rows" :key="row.id">
          <tr data-test="structure-row">
            <th scope="row" dir="auto">
              {{ row.name }}
              <span v-if="row.other_names.length" class="small muted">{{ row.other_names.join(', ') }}</span>
              <span v-if="row.retired" class="small muted"> ({{ text.vocabulary.retired }})</span>
            </th>
            <td :data-label="text.vocabulary.tissue">{{ tissues[row.tissue] }}</td>
            <td class="small" :data-label="text.vocabulary.actions">{{ actions(row) }}</td>
            <td>
              <v-btn
                v-if="row.tests"
                size="small"
                variant="text"
                :aria-expanded="picked === row.id"
                @click="picked = picked === row.id ? null : row.id"
              >
                {{ text.vocabulary.tests(row.tests) }}
              </v-btn>
              <span v-else class="small muted unused">{{ text.vocabulary.tests(0) }}</span>
            </td>
            <td>
              <IconButton
                v-if="may('write_sheets')"
                :icon="mdiPencilOutline"
                :label="`${text.vocabulary.edit}: ${row.name}`"
                :hint="text.vocabulary.edit"
                @click="edit(row)"
              />
            </td>
          </tr>
          <tr v-if="picked === row.id">
            <td colspan="5" class="loading" data-test="loading-tests">
              <h2>{{ text.vocabulary.which(row.name) }}</h2>
              <ul>
                <li v-for="(test, index) in loading.data.value ?? []" :key="index">
                  <SheetLink :test="test.id">{{ test.name }}</SheetLink>
                  {{ ' '
                  }}<span class="muted">
                    {{ test.role ? loadRoles[test.role] : '' }} · {{ test.variant }}
                    <template v-if="test.phase">, {{ test.phase }}</template>
                  </span>
                </li>
              </ul>
            </td>
          </tr>
        </template>
      </tbody>
    </table>
    <StructureDialog v-model:open="dialog" :structure="editing" :region="region" />
    <ConditionSection :region="region" />
  </div>
</template>

<style scoped>
.heading {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  justify-content: space-between;
  gap: 4px 16px;
}
.about {
  max-width: 70ch;
  margin: 4px 0 12px;
}
.search {
  max-width: 340px;
  margin-bottom: 8px;
}
table {
  width: 100%;
  max-width: 1000px;
  border-collapse: collapse;
}
th,
td {
  padding: 4px 8px 4px 0;
  text-align: left;
  vertical-align: middle;
  border-bottom: 1px solid var(--line);
}
thead th {
  font-size: 0.8125rem;
}
tbody th {
  font-weight: 600;
}
tbody th .small {
  font-weight: 400;
}
.unused {
  white-space: nowrap;
  padding-left: 12px;
}
.loading h2 {
  margin: 6px 0;
  font-size: 1rem;
}
.loading ul {
  padding-left: 18px;
}
</style>
