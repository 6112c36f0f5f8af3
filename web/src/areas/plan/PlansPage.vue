<script setup lang="ts">
import { mdiPlus } from '@mdi/js'
import { computed, watchEffect } from 'vue'
import { useRouter } from 'vue-router'

import StatusMark from '@/areas/review/StatusMark.vue'
import { usePlans } from '@/shared/api/queries'
import { day } from '@/shared/format'
import ExaminationsWaiting from '@/shared/layout/ExaminationsWaiting.vue'
import FailureNotice from '@/shared/layout/FailureNotice.vue'
import PartNav from '@/shared/layout/PartNav.vue'
import SampleMark from '@/shared/layout/SampleMark.vue'
import StateNotice from '@/shared/layout/StateNotice.vue'
import WaitLine from '@/shared/layout/WaitLine.vue'
import SearchField from '@/shared/question/SearchField.vue'
import { choice, options, useListPage } from '@/shared/question/useListPage'
import { useQuestion } from '@/shared/question/useQuestion'
import { may } from '@/shared/session/session'
import { text } from '@/shared/text'
import { useShortcuts } from '@/shared/useShortcuts'

/** The plans of a region. */
const words = text.plan
const router = useRouter()
const { region, carried } = useQuestion()
const list = useListPage({
  choices: { status: choice(text.review.status), order: choice(words.orders, 'title') },
})
const plans = usePlans(
  computed(() => ({
    region: region.value,
    search: list.search.value,
    ...(list.chosen.value.status ? { status: list.chosen.value.status } : {}),
  })),
)
const rows = computed(() => {
  const found = [...(plans.data.value ?? [])]
  if (list.chosen.value.order === 'saved') found.sort((a, b) => b.saved_at.localeCompare(a.saved_at))
  return found
})
const filtered = computed(() => !!list.search.value || !!list.chosen.value.status)
const create = computed(() => ({ name: 'new-plan', query: carried.value }))
useShortcuts({ n: () => may('write_sheets') && void router.push(create.value) })
watchEffect(() => (document.title = `${words.title} – Pruvex`))
</script>

<template>
  <div>
    <PartNav :label="text.layout.plan" :parts="text.layout.planParts" />
    <div class="title-bar">
      <h1>{{ words.of(text.regions[region]) }}</h1>
      <v-btn
        v-if="may('write_sheets')"
        class="no-print"
        :prepend-icon="mdiPlus"
        :to="create"
        data-test="add-plan"
      >
        {{ words.add }}
      </v-btn>
    </div>
    <p class="muted about">{{ words.about }}</p>
    <ExaminationsWaiting />
    <div class="controls no-print">
      <SearchField :list="list" :label="words.search" test="search-plans" />
      <v-select
        v-if="may('read_drafts')"
        class="choice"
        :model-value="list.chosen.value.status ?? null"
        :items="options(text.review.status)"
        :label="words.status"
        clearable
        data-test="plan-status"
        @update:model-value="list.choose({ status: $event })"
      />
      <v-select
        class="choice"
        :model-value="list.chosen.value.order"
        :items="options(words.orders)"
        :label="words.order"
        @update:model-value="list.choose({ order: $event })"
      />
    </div>
    <WaitLine :active="plans.isFetching.value" />
    <FailureNotice v-if="plans.isError.value && !rows.length" :query="plans" :title="words.failed" />
    <StateNotice
      v-else-if="plans.isSuccess.value && !rows.length"
      :title="filtered ? words.nothing : words.none"
      :detail="filtered ? words.nothingDetail : words.noneDetail"
      data-test="no-plans"
    >
      <v-btn v-if="filtered" @click="list.clear('status')">{{ text.catalogue.clear }}</v-btn>
      <v-btn v-else-if="may('write_sheets')" :to="create">{{ words.add }}</v-btn>
    </StateNotice>
    <template v-else-if="rows.length">
      <p class="muted small" aria-live="polite">{{ words.count(rows.length) }}</p>
      <ul class="plans">
        <li v-for="row in rows" :key="row.id" data-test="plan-row">
          <h2>
            <router-link :to="{ name: 'plan', params: { plan: row.id }, query: carried }" dir="auto">{{
              row.title
            }}</router-link>
          </h2>
          <p class="marks">
            <StatusMark v-if="may('read_drafts')" :status="row.status" />
            <SampleMark v-if="row.sample" />
          </p>
          <p class="small" dir="auto">{{ row.conditions.join(' · ') }}</p>
          <p class="small muted">
            {{ words.tests(row.tests)
            }}<template v-if="row.setting"> · {{ text.setup.choices.setting.words[row.setting] }}</template> ·
            {{ words.saved(day(row.saved_at)) }}
          </p>
        </li>
      </ul>
    </template>
  </div>
</template>

<style scoped>
.about {
  max-width: 80ch;
  margin: 4px 0 14px;
}
.controls {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  margin-bottom: 8px;
}
.controls > :first-child {
  flex: 2 1 300px;
}
.choice {
  flex: 0 1 220px;
}
.plans {
  padding: 0;
  margin: 8px 0 16px;
  list-style: none;
  border-top: 1px solid var(--line);
}
li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 2px 16px;
  padding: 10px 0;
  border-bottom: 1px solid var(--line);
}
h2 {
  font-size: 1.05rem;
}
li > .small {
  grid-column: 1 / -1;
}
@media screen and (max-width: 600px) {
  h2 a {
    display: inline-block;
    padding: 10px 0;
  }
}
</style>
