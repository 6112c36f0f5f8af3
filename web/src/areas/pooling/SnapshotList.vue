<script setup lang="ts">
import { useSnapshots } from '@/shared/api/queries'
import type { Region } from '@/shared/api/types'
import { moment } from '@/shared/format'
import SampleMark from '@/shared/layout/SampleMark.vue'
import { useQuestion } from '@/shared/question/useQuestion'
import { text } from '@/shared/text'
import StaleMark from './StaleMark.vue'

/** The frozen pools of a region; or those that a test is in, if there are any. */
const props = defineProps<{ region?: Region; test?: string }>()

const words = text.pool.snapshot
const { carried } = useQuestion()
const found = useSnapshots(() => (props.test ? { test: props.test } : { region: props.region }))
</script>

<template>
  <section
    v-if="found.data.value && (region || found.data.value.length)"
    class="no-print"
    data-test="snapshots"
  >
    <h2>{{ words.title }}</h2>
    <p class="small muted">{{ found.data.value.length ? words.about : words.none }}</p>
    <ul>
      <li v-for="one in found.data.value" :key="one.id">
        <router-link :to="{ name: 'snapshot', params: { snapshot: one.id }, query: carried }" dir="auto">{{
          one.title
        }}</router-link>
        <SampleMark v-if="one.sample" />
        <StaleMark :stale="one.stale" />
        <span class="small muted">
          {{ one.tests.map((test) => test.name).join(', ') }} ·
          {{ words.by(one.by ?? words.nobody, moment(one.at)) }}
        </span>
      </li>
    </ul>
  </section>
</template>

<style scoped>
ul {
  padding: 0;
  list-style: none;
}
li {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 4px 10px;
  padding: 6px 0;
  border-top: 1px solid var(--line);
}
</style>
