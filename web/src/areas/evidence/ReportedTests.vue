<script setup lang="ts">
import { ref } from 'vue'

import { useReportedTests } from '@/shared/api/queries'
import type { ReferenceView } from '@/shared/api/types'
import WaitLine from '@/shared/layout/WaitLine.vue'
import SheetLink from '@/shared/question/SheetLink.vue'
import { text } from '@/shared/text'

/** How many studies a reference reports, and on demand of which tests. */
const props = defineProps<{ reference: ReferenceView }>()
const open = ref(false)
const tests = useReportedTests(() => props.reference.id, open)
</script>

<template>
  <details
    class="small"
    :aria-label="text.references.behindWhich(reference.label)"
    @toggle="open = ($event.target as HTMLDetailsElement).open"
  >
    <summary data-test="reported">{{ text.references.behind(reference.studies) }}</summary>
    <WaitLine :active="tests.isFetching.value" />
    <p v-if="tests.isError.value" role="alert">{{ tests.error.value?.message }}</p>
    <ul>
      <li v-for="test in tests.data.value ?? []" :key="test.id">
        <SheetLink :test="test.id">
          {{ test.name }}
        </SheetLink>
      </li>
    </ul>
  </details>
</template>

<style scoped>
summary {
  color: var(--muted);
}
ul {
  padding-left: 1.2em;
}
</style>
