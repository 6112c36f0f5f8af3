<script setup lang="ts">
import { computed } from 'vue'
import { START_LOCATION, useRouter } from 'vue-router'

import { useQuestion } from './useQuestion'

/**
 * To the sheet of a test, with the question that is asked. Made for lists of hundreds: it is resolved anew when the question changes,
 * not at every change of the address.
 */
const props = defineProps<{
  test: string
  /** The part of the sheet to go to. */
  hash?: string
}>()

const router = useRouter()
const { carried } = useQuestion()
// Resolved from the start page, and not from wherever the address is just now.
const target = computed(() =>
  router.resolve(
    { name: 'sheet', params: { id: props.test }, query: carried.value, hash: props.hash ?? '' },
    START_LOCATION,
  ),
)

/** What opens another tab or window is left to the browser. */
function follow(event: MouseEvent) {
  if (event.metaKey || event.ctrlKey || event.shiftKey || event.altKey || event.button !== 0) return
  event.preventDefault()
  void router.push(target.value)
}
</script>

<template>
  <a :href="target.href" @click="follow"><slot /></a>
</template>
