<script setup lang="ts">
import { mdiPencilOutline, mdiPlus } from '@mdi/js'
import { computed, ref } from 'vue'

import { api } from '@/shared/api/client'
import { useConditions } from '@/shared/api/queries'
import type { ConditionView, Region } from '@/shared/api/types'
import { percent, typedPercent } from '@/shared/format'
import IconButton from '@/shared/layout/IconButton.vue'
import { useQuestion } from '@/shared/question/useQuestion'
import { may } from '@/shared/session/session'
import { text } from '@/shared/text'
import { typedNumber } from '@/shared/typedNumber'
import { undoBar } from '@/shared/undo'
import { useSaving } from '@/shared/useSaving'

/** The target conditions of a region, with the pre-test probability from which the question starts. */
const props = defineProps<{ region: Region }>()

const conditions = useConditions()
const rows = computed(() => (conditions.data.value ?? []).filter((row) => row.region === props.region))
const { carried } = useQuestion()
const sourcesOf = (row: ConditionView) =>
  new Set((row.prevalence ?? []).map((it) => (it.source ?? '').trim().toLowerCase())).size
const open = ref(false)
const edited = ref<ConditionView | null>(null)
const draft = ref({ name: '', setting: '', preTest: '', mustNotMiss: false })
const { failure, saving, begin, of, save: attempt } = useSaving(text.vocabulary.conflict)

function edit(row: ConditionView | null) {
  edited.value = row
  begin(row?.version)
  const usual = typeof row?.pre_test === 'number' ? typedPercent(row.pre_test, 2) : ''
  const mustNotMiss = row?.must_not_miss ?? false
  draft.value = { name: row?.name ?? '', setting: row?.setting ?? '', preTest: usual, mustNotMiss }
  open.value = true
}

async function save() {
  const { name, setting, preTest, mustNotMiss } = draft.value
  const id = edited.value?.id
  const share = typedNumber(preTest)
  const usual = share === null ? null : share / 100
  const body = {
    region: props.region,
    name,
    setting,
    pre_test: usual,
    prevalence: edited.value?.prevalence ?? [],
    must_not_miss: mustNotMiss,
  }
  const saved = await attempt((header) =>
    id
      ? api.PUT('/api/v1/conditions/{id}', { params: { path: { id }, header }, body })
      : api.POST('/api/v1/conditions', { body }),
  )
  if (!saved) return
  undoBar.offer(text.vocabulary.saved)
  open.value = false
}
</script>

<template>
  <section class="conditions">
    <div class="heading">
      <h2>{{ text.vocabulary.conditions }}</h2>
      <v-btn v-if="may('write_sheets')" :prepend-icon="mdiPlus" data-test="add-condition" @click="edit(null)">
        {{ text.vocabulary.addCondition }}
      </v-btn>
    </div>
    <p class="muted">{{ text.vocabulary.conditionsAbout }}</p>
    <table v-if="rows.length" class="stacked">
      <thead>
        <tr>
          <th scope="col">{{ text.vocabulary.condition }}</th>
          <th scope="col">{{ text.vocabulary.preTest }}</th>
          <th scope="col">{{ text.vocabulary.setting }}</th>
          <th scope="col">{{ text.catalogue.test }}</th>
          <th scope="col">{{ text.prevalence.short }}</th>
          <th>
            <span class="visually-hidden">{{ text.study.actions }}</span>
          </th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in rows" :key="row.id" data-test="condition-row">
          <th scope="row" dir="auto">
            {{ row.name }}
            <span v-if="row.must_not_miss" class="small must" data-test="must-not-miss">{{
              text.vocabulary.mustNotMiss
            }}</span>
          </th>
          <td :data-label="text.vocabulary.preTest">
            {{ typeof row.pre_test === 'number' ? percent(row.pre_test) : text.vocabulary.unknown }}
          </td>
          <td dir="auto" :data-label="text.vocabulary.setting">{{ row.setting }}</td>
          <td>{{ text.vocabulary.tests(row.tests) }}</td>
          <td>
            <router-link
              :to="{ name: 'prevalence', params: { id: row.id }, query: carried }"
              data-test="to-prevalence"
              >{{ text.prevalence.sources(sourcesOf(row)) }}</router-link
            >
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
      </tbody>
    </table>
    <v-dialog v-model="open" max-width="560">
      <v-card data-test="condition-dialog">
        <form class="dialog-form" novalidate @submit.prevent="save">
          <h2>{{ edited ? edited.name : text.vocabulary.addCondition }}</h2>
          <p v-if="failure" role="alert" class="failure">{{ failure }}</p>
          <v-text-field
            v-model="draft.name"
            :label="text.vocabulary.condition"
            :error-messages="of('name')"
            data-test="condition-name"
          />
          <v-text-field
            v-model="draft.preTest"
            :label="text.vocabulary.preTest"
            :suffix="text.vocabulary.perCent"
            type="number"
            step="any"
            hide-spin-buttons
            :error-messages="of('pre_test')"
            data-test="condition-pretest"
          />
          <v-text-field
            v-model="draft.setting"
            :label="text.vocabulary.setting"
            :error-messages="of('setting')"
          />
          <v-checkbox
            v-model="draft.mustNotMiss"
            :label="text.vocabulary.mustNotMissLabel"
            density="compact"
            hide-details
            data-test="condition-must-not-miss"
          />
          <div class="foot">
            <v-btn type="submit" variant="flat" color="primary" :loading="saving" data-test="save-condition">
              {{ text.vocabulary.save }}
            </v-btn>
            <v-btn variant="text" @click="open = false">{{ text.vocabulary.cancel }}</v-btn>
          </div>
        </form>
      </v-card>
    </v-dialog>
  </section>
</template>

<style scoped>
.conditions {
  max-width: 1000px;
  margin-top: 34px;
}
.heading {
  display: flex;
  align-items: center;
  justify-content: space-between;
}
table {
  width: 100%;
  margin-top: 8px;
  border-collapse: collapse;
}
th,
td {
  padding: 4px 8px 4px 0;
  text-align: left;
  border-bottom: 1px solid var(--line);
}
thead th {
  font-size: 0.8125rem;
}
tbody th {
  font-weight: 600;
}
.foot {
  gap: 8px;
}
.must {
  display: block;
  color: rgb(var(--v-theme-error));
  font-weight: 400;
}
</style>
