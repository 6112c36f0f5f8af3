<script setup lang="ts">
import { refDebounced } from '@vueuse/core'
import { computed } from 'vue'

import { useKnownStudies } from '@/shared/api/queries'
import type { KnownStudy } from '@/shared/api/types'
import { text } from '@/shared/text'

/** The studies on record of a reference: a further result may be of the same people. */
const props = defineProps<{ referenceId: string | null; reference: string }>()
const emit = defineEmits<{ take: [study: KnownStudy] }>()

const REST_MILLISECONDS = 250
const typed = refDebounced(
  computed(() => props.reference.trim()),
  REST_MILLISECONDS,
)
const known = useKnownStudies(
  computed(() => (props.referenceId ? { reference_id: props.referenceId } : { reference: typed.value })),
)
const about = ({ population, setup, tests }: KnownStudy) =>
  [
    population || text.study.somebody,
    setup.people == null ? '' : text.setup.people(setup.people),
    tests.map((test) => test.name).join(', '),
  ].filter(Boolean)
</script>

<template>
  <div v-if="known.data.value?.length" class="known small" data-test="known-studies">
    <p>{{ text.study.known }}</p>
    <ul>
      <li v-for="study in known.data.value" :key="study.id">
        <span class="wrap-anywhere" dir="auto">{{ about(study).join(' · ') }}</span>
        <v-btn size="small" data-test="same-people" @click="emit('take', study)">{{ text.study.same }}</v-btn>
      </li>
    </ul>
  </div>
</template>

<style scoped>
.known {
  padding: 8px 12px;
  border: 1px solid var(--line);
  border-radius: 4px;
}
ul {
  padding: 0;
  list-style: none;
}
li {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 12px;
  padding-top: 6px;
}
</style>
