<script setup lang="ts">
import { mdiMagnify, mdiPlus, mdiTrayArrowDown, mdiTrayArrowUp } from '@mdi/js'
import { computed, defineAsyncComponent, ref, watchEffect } from 'vue'

import { useReferences } from '@/shared/api/queries'
import type { ReferenceView } from '@/shared/api/types'
import PageTurner from '@/shared/layout/PageTurner.vue'
import StateNotice from '@/shared/layout/StateNotice.vue'
import WaitLine from '@/shared/layout/WaitLine.vue'
import { may } from '@/shared/session/session'
import { text } from '@/shared/text'
import { useShortcuts } from '@/shared/useShortcuts'
import EvidenceNav from './EvidenceNav.vue'
import ReferenceEntry from './ReferenceEntry.vue'
import { PAGE, useReferenceState } from './useReferenceState'

/** The works in which studies were published. */
// Who reads must not wait for the forms.
const ReferenceDialog = defineAsyncComponent(() => import('./ReferenceDialog.vue'))
const ReferenceImport = defineAsyncComponent(() => import('./ReferenceImport.vue'))

const state = useReferenceState()
const references = useReferences(state.filter)
const list = computed(() => references.data.value?.references ?? [])
const total = computed(() => references.data.value?.total ?? 0)
const items = (words: Record<string, string>) =>
  Object.entries(words).map(([value, title]) => ({ value, title }))
watchEffect(() => (document.title = `${text.references.title} – Pruvex`))

const search = ref<{ focus(): void } | null>(null)
const editing = ref<ReferenceView | null>(null)
const open = ref(false)
const asked = ref(false)
const importing = ref(false)
const importAsked = ref(false)
function show(reference: ReferenceView | null) {
  editing.value = reference
  asked.value = true
  open.value = true
}
function bringIn() {
  importAsked.value = true
  importing.value = true
}
useShortcuts({ '/': () => search.value?.focus(), a: () => may('write_studies') && show(null) })

const exportAddress = (format: string) =>
  `/api/v1/references/export?format=${format}&search=${encodeURIComponent(state.filter.value.search)}`
</script>

<template>
  <div>
    <EvidenceNav />
    <header>
      <h1>{{ text.references.title }}</h1>
      <div class="buttons no-print">
        <v-menu v-if="may('read_drafts') && total">
          <template #activator="{ props: activator }">
            <v-btn v-bind="activator" :prepend-icon="mdiTrayArrowDown" variant="text" data-test="take-out">
              {{ text.references.takeOut }}
            </v-btn>
          </template>
          <v-list density="compact">
            <v-list-item
              v-for="(label, format) in text.references.formats"
              :key="format"
              :href="exportAddress(format)"
              :title="label"
            />
          </v-list>
        </v-menu>
        <template v-if="may('write_studies')">
          <v-btn :prepend-icon="mdiTrayArrowUp" data-test="bring-in" @click="bringIn">
            {{ text.references.file }}
          </v-btn>
          <v-btn :prepend-icon="mdiPlus" data-test="add-reference" @click="show(null)">
            {{ text.references.add }}
          </v-btn>
        </template>
      </div>
    </header>
    <div class="controls no-print">
      <v-text-field
        ref="search"
        :model-value="state.filter.value.search"
        :prepend-inner-icon="mdiMagnify"
        :label="text.references.search"
        clearable
        autocomplete="off"
        data-test="search-references"
        @update:model-value="state.setSearch($event ?? '')"
      />
      <v-select
        class="choice"
        :model-value="state.filter.value.order"
        :items="items(text.references.orders)"
        :label="text.references.order"
        data-test="order-references"
        @update:model-value="state.setOrder"
      />
      <v-select
        class="choice"
        :model-value="state.filter.value.style"
        :items="items(text.references.styles)"
        :label="text.references.style"
        @update:model-value="state.setStyle"
      />
    </div>
    <WaitLine :active="references.isFetching.value" />
    <StateNotice
      v-if="references.isError.value && !list.length"
      tone="error"
      :title="text.references.failed"
      :detail="references.error.value?.message"
    >
      <v-btn @click="references.refetch()">{{ text.layout.retry }}</v-btn>
    </StateNotice>
    <StateNotice
      v-else-if="references.isSuccess.value && !list.length"
      :title="state.filter.value.search ? text.references.nothing : text.references.none"
      :detail="state.filter.value.search ? text.references.nothingDetail : text.references.noneDetail"
    >
      <v-btn v-if="state.filter.value.search" @click="state.setSearch('')">{{ text.catalogue.clear }}</v-btn>
    </StateNotice>
    <template v-else-if="list.length">
      <p class="muted small" aria-live="polite" data-test="reference-count">
        {{ text.references.count(total) }}
      </p>
      <ol data-test="references">
        <ReferenceEntry
          v-for="reference in list"
          :key="reference.id"
          :reference="reference"
          @edit="show(reference)"
        />
      </ol>
      <PageTurner
        :model-value="state.page.value"
        :size="PAGE"
        :shown="list.length"
        :total="total"
        :label="text.references.title"
        @update:model-value="state.setPage"
      />
    </template>
    <ReferenceDialog v-if="asked" v-model:open="open" :reference="editing" />
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
