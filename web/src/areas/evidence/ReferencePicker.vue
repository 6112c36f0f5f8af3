<script setup lang="ts">
import { refDebounced } from '@vueuse/core'
import { computed, nextTick, ref, watch } from 'vue'

import { useReferences } from '@/shared/api/queries'
import type { ReferenceView } from '@/shared/api/types'
import { text } from '@/shared/text'

/** Chooses one of the references on record, found by words of it. */
const emit = defineEmits<{ picked: [reference: ReferenceView] }>()

const REST_MILLISECONDS = 150
const typed = ref('')
const search = refDebounced(typed, REST_MILLISECONDS)
const found = useReferences(
  computed(() => ({
    search: search.value ?? '',
    order: 'added',
    style: 'ama' as const,
    offset: 0,
    limit: 20,
  })),
)
const items = computed(() => found.data.value?.references ?? [])
/** The first references to come in would open the list by themselves, over what somebody is about to press. */
const menu = ref(false)
watch(found.isSuccess, () => {
  if (!menu.value && !typed.value) void nextTick(() => (menu.value = false))
})
function pick(reference: ReferenceView | null) {
  if (reference) emit('picked', reference)
}
</script>

<template>
  <v-autocomplete
    v-model:search="typed"
    v-model:menu="menu"
    :model-value="null"
    :items="items"
    :loading="found.isFetching.value"
    item-title="label"
    item-value="id"
    return-object
    no-filter
    autofocus
    :label="text.references.pick"
    :no-data-text="text.references.nothing"
    data-test="pick-reference"
    @update:model-value="pick"
  >
    <template #item="{ props: item, item: reference }">
      <v-list-item v-bind="item" :title="reference.label" :subtitle="reference.title" />
    </template>
  </v-autocomplete>
</template>
