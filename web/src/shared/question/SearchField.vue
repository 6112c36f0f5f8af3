<script setup lang="ts">
import { mdiMagnify } from '@mdi/js'
import { useTimeoutFn } from '@vueuse/core'
import { ref, watch } from 'vue'

import { useShortcuts } from '@/shared/useShortcuts'
import type { Searched } from './useListPage'

/** The search of a list: it is asked once typing rests, follows the address, and `/` leads to it. */
const { list } = defineProps<{ list: Searched; label: string; test: string }>()
const emit = defineEmits<{ leave: [] }>()

const field = ref<{ focus: () => void } | null>(null)
const typed = ref<string | null>(list.search.value)
// A field that clears itself holds null.
const said = () => (typed.value ?? '').trim()
function ask() {
  if (said() !== list.search.value) list.setSearch(said())
}
// Ends with the page: the next one's address is not changed by what was typed here.
const rested = useTimeoutFn(ask, 150, { immediate: false })
watch(typed, () => rested.start())
watch(list.search, (value) => {
  if (value !== said()) typed.value = value
})
useShortcuts({ '/': () => field.value?.focus() })
</script>

<template>
  <v-text-field
    ref="field"
    v-model="typed"
    :label="label"
    :prepend-inner-icon="mdiMagnify"
    clearable
    autocomplete="off"
    :data-test="test"
    @keydown.down.prevent="emit('leave')"
    @keydown.enter.prevent="emit('leave')"
  />
</template>
