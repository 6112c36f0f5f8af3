<script setup lang="ts">
import { computed } from 'vue'

import { useTeachingConflicts } from '@/shared/api/queries'
import { text } from '@/shared/text'
import ConflictEntry from './ConflictEntry.vue'

/** Where teaching about one test disagrees. */
const props = defineProps<{ test: string }>()

const conflicts = useTeachingConflicts(() => ({ test: props.test }))
const entries = computed(() => conflicts.data.value ?? [])
</script>

<template>
  <section v-if="entries.length" class="conflicts" data-test="sheet-conflicts">
    <h2>{{ text.conflicts.title }}</h2>
    <ConflictEntry v-for="entry in entries" :key="entry.id" :entry="entry" heading="h3" :test="test" />
  </section>
</template>

<style scoped>
.conflicts {
  margin: 26px 0;
}
</style>
