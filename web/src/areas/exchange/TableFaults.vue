<script setup lang="ts">
import { mdiTrayArrowDown } from '@mdi/js'
import { useQueries } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'

import { api, data } from '@/shared/api/client'
import type { FieldError } from '@/shared/api/types'
import { whole } from '@/shared/format'
import { text } from '@/shared/text'
import { changeOf, faultGroups, faultsCsv, type TableChange } from './tableChanges'

/** Everything that is wrong with a table, each with a field for what should be read instead; the file stays as it is. */
const props = defineProps<{ faults: FieldError[]; busy: boolean }>()
const emit = defineEmits<{ change: [changes: TableChange[]] }>()

const words = text.tableImport.mend
/** Names of tests are looked up for so many at a time. */
const MOST_LOOKED_UP = 20
const groups = computed(() => faultGroups(props.faults))
const typed = ref<Record<string, string>>({})
watch(groups, () => (typed.value = {}))

const unknown = computed(() =>
  groups.value.filter(({ field, everywhere }) => field === 'test' && everywhere).slice(0, MOST_LOOKED_UP),
)
const near = useQueries({
  queries: computed(() =>
    unknown.value.map(({ value }) => ({
      queryKey: ['tests-like', value],
      queryFn: async () =>
        data(await api.GET('/api/v1/tests', { params: { query: { search: value, limit: 3 } } })),
      staleTime: Infinity,
    })),
  ),
})
const suggestions = computed(
  () =>
    new Map(unknown.value.map(({ key }, at) => [key, (near.value[at]?.data ?? []).map((test) => test.name)])),
)
const filled = computed(() =>
  groups.value.filter(
    ({ key, cell, value }) => cell && typed.value[key] != null && typed.value[key] !== value,
  ),
)
function apply() {
  emit(
    'change',
    filled.value.map((group) => changeOf(group, typed.value[group.key]!.trim())),
  )
}
const list = computed(() => {
  const csv = faultsCsv(props.faults, [text.exchange.where, words.value, text.exchange.what, words.remedy])
  return `data:text/csv;charset=utf-8,${encodeURIComponent(`\ufeff${csv}`)}`
})
</script>

<template>
  <form @submit.prevent="apply">
    <table class="plain-table stacked" data-test="table-faults">
      <thead>
        <tr>
          <th scope="col">{{ text.exchange.where }}</th>
          <th scope="col">{{ text.exchange.what }}</th>
          <th scope="col">{{ words.becomes }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="group in groups" :key="group.key">
          <td class="wrap-anywhere where">
            <code>{{ group.faults[0]!.field }}</code>
            <span v-if="group.faults.length > 1" class="small muted more">{{
              words.more(whole(group.faults.length - 1))
            }}</span>
          </td>
          <td class="wrap-anywhere">
            {{ group.faults[0]!.message }}
            <span v-if="group.faults[0]!.value" class="muted">“{{ group.faults[0]!.value }}”</span>
            {{ group.faults[0]!.remedy }}
          </td>
          <td class="mend">
            <template v-if="group.cell">
              <v-text-field
                :model-value="typed[group.key] ?? group.value"
                :aria-label="words.label(group.faults[0]!.field)"
                density="compact"
                hide-details
                dir="auto"
                data-test="mend"
                @update:model-value="typed[group.key] = String($event ?? '')"
              />
              <v-btn
                v-for="name in suggestions.get(group.key) ?? []"
                :key="name"
                variant="text"
                size="small"
                data-test="mend-suggestion"
                @click="typed[group.key] = name"
                >{{ words.use(name) }}</v-btn
              >
            </template>
          </td>
        </tr>
      </tbody>
    </table>
    <div class="buttons">
      <v-btn
        type="submit"
        variant="flat"
        color="primary"
        :disabled="!filled.length || busy"
        data-test="apply-changes"
        >{{ words.apply(filled.length) }}</v-btn
      >
      <v-btn
        variant="text"
        :prepend-icon="mdiTrayArrowDown"
        :href="list"
        download="pruvex-table-errors.csv"
        data-test="faults-csv"
        >{{ words.list }}</v-btn
      >
    </div>
  </form>
</template>

<style scoped>
.where {
  width: 150px;
}
.more {
  display: block;
}
.mend {
  width: 280px;
}
</style>
