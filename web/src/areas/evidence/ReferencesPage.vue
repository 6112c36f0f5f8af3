<script setup lang="ts">
import { mdiPlus, mdiTrayArrowDown, mdiTrayArrowUp } from '@mdi/js'
import { computed, defineAsyncComponent, ref, watchEffect } from 'vue'

import { useReferences } from '@/shared/api/queries'
import type { ReferenceView } from '@/shared/api/types'
import FailureNotice from '@/shared/layout/FailureNotice.vue'
import PageTurner from '@/shared/layout/PageTurner.vue'
import StateNotice from '@/shared/layout/StateNotice.vue'
import WaitLine from '@/shared/layout/WaitLine.vue'
import SearchField from '@/shared/question/SearchField.vue'
import { choice, options, useListPage } from '@/shared/question/useListPage'
import { may } from '@/shared/session/session'
import { text } from '@/shared/text'
import { useOnceOpened } from '@/shared/useOnceOpened'
import { useShortcuts } from '@/shared/useShortcuts'
import { useShown } from '@/shared/useShown'
import EvidenceNav from './EvidenceNav.vue'
import ReferenceEntry from './ReferenceEntry.vue'

/** The works in which studies were published. */
// Who reads must not wait for the forms.
const ReferenceDialog = defineAsyncComponent(() => import('./ReferenceDialog.vue'))
const ReferenceImport = defineAsyncComponent(() => import('./ReferenceImport.vue'))

const PAGE = 50
const words = text.references
const asked = useListPage({
  choices: { order: choice(words.orders, 'added'), style: choice(words.styles, 'ama') },
  size: PAGE,
})
const { search, chosen } = asked
const references = useReferences(
  computed(() => ({ search: search.value, ...chosen.value, ...asked.window.value })),
)
const list = computed(() => references.data.value?.references ?? [])
const total = computed(() => references.data.value?.total ?? 0)
watchEffect(() => (document.title = `${words.title} – Pruvex`))

const editing = useShown<ReferenceView>()
const importing = ref(false)
const importAsked = useOnceOpened(() => importing.value)
useShortcuts({ a: () => may('write_studies') && editing.show(null) })

const exportAddress = (format: string) =>
  `/api/v1/references/export?format=${format}&search=${encodeURIComponent(search.value)}`
</script>

<template>
  <div>
    <EvidenceNav />
    <header>
      <h1>{{ words.title }}</h1>
      <div class="buttons no-print">
        <v-menu v-if="may('read_drafts') && total">
          <template #activator="{ props: activator }">
            <v-btn v-bind="activator" :prepend-icon="mdiTrayArrowDown" variant="text" data-test="take-out">
              {{ words.takeOut }}
            </v-btn>
          </template>
          <v-list density="compact">
            <v-list-item
              v-for="(label, format) in words.formats"
              :key="format"
              :href="exportAddress(format)"
              :title="label"
            />
          </v-list>
        </v-menu>
        <template v-if="may('write_studies')">
          <v-btn :prepend-icon="mdiTrayArrowUp" data-test="bring-in" @click="importing = true">
            {{ words.file }}
          </v-btn>
          <v-btn :prepend-icon="mdiPlus" data-test="add-reference" @click="editing.show(null)">
            {{ words.add }}
          </v-btn>
        </template>
      </div>
    </header>
    <div class="controls no-print">
      <SearchField :list="asked" :label="words.search" test="search-references" />
      <v-select
        class="choice"
        :model-value="chosen.order"
        :items="options(words.orders)"
        :label="words.order"
        data-test="order-references"
        @update:model-value="asked.choose({ order: $event })"
      />
      <v-select
        class="choice"
        :model-value="chosen.style"
        :items="options(words.styles)"
        :label="words.style"
        @update:model-value="asked.choose({ style: $event })"
      />
    </div>
    <WaitLine :active="references.isFetching.value" />
    <FailureNotice
      v-if="references.isError.value && !list.length"
      :query="references"
      :title="words.failed"
    />
    <StateNotice
      v-else-if="references.isSuccess.value && !list.length"
      :title="search ? words.nothing : words.none"
      :detail="search ? words.nothingDetail : words.noneDetail"
    >
      <v-btn v-if="search" @click="asked.setSearch('')">{{ text.catalogue.clear }}</v-btn>
    </StateNotice>
    <template v-else-if="list.length">
      <p class="muted small" aria-live="polite" data-test="reference-count">
        {{ words.count(total) }}
      </p>
      <ol data-test="references">
        <ReferenceEntry
          v-for="reference in list"
          :key="reference.id"
          :reference="reference"
          @edit="editing.show(reference)"
        />
      </ol>
      <PageTurner
        :model-value="asked.page.value"
        :size="PAGE"
        :shown="list.length"
        :total="total"
        :label="words.title"
        @update:model-value="asked.setPage"
      />
    </template>
    <ReferenceDialog
      v-if="editing.asked.value"
      v-model:open="editing.open.value"
      :reference="editing.shown.value"
    />
    <ReferenceImport v-if="importAsked" v-model:open="importing" />
  </div>
</template>

<style scoped>
header {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  justify-content: space-between;
  gap: 8px 16px;
}
.buttons {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 10px;
}
.controls {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  margin: 14px 0 8px;
}
.controls > :first-child {
  flex: 2 1 300px;
}
.choice {
  flex: 0 1 240px;
}
ol {
  padding: 0;
  margin: 8px 0 16px;
  list-style: none;
  border-top: 1px solid var(--line);
}
</style>
