<script setup lang="ts">
import { computed } from 'vue'

import type { TeachingConflictView } from '@/shared/api/types'
import SampleMark from '@/shared/layout/SampleMark.vue'
import SheetLink from '@/shared/question/SheetLink.vue'
import { text } from '@/shared/text'

/** One entry of the register of conflicting teaching: its claims, and what is held of them. */
const props = defineProps<{ entry: TeachingConflictView; heading: 'h2' | 'h3'; test?: string }>()

const words = text.conflicts
const others = computed(() => props.entry.named_tests.filter((it) => it.id !== props.test))
</script>

<template>
  <article class="entry wrap-anywhere" data-test="conflict-entry">
    <div class="title">
      <component :is="heading" dir="auto">{{ entry.question }}</component>
      <slot />
    </div>
    <p class="small muted">
      <SampleMark v-if="entry.sample" />
      {{ words.topics[entry.topic] }}
      <template v-for="it in others" :key="it.id">
        · <SheetLink :test="it.id" dir="auto">{{ it.name }}</SheetLink>
      </template>
    </p>
    <ul>
      <li v-for="(claim, place) in entry.claims" :key="place" dir="auto">
        <b v-if="entry.verdict === 'favours' && entry.favours === place" class="taught"
          >{{ words.taught }}: </b
        >{{ claim.claim }}
        <span class="detail">
          <i>{{ claim.source }}</i>
          <template v-if="claim.evidence"> · {{ claim.evidence }}</template>
        </span>
      </li>
    </ul>
    <p v-if="entry.verdict !== 'favours'" class="small">
      <b>{{ entry.verdict === 'open' ? words.open : words.neither }}</b>
    </p>
    <p v-if="entry.reason" class="small pre-line" dir="auto">{{ words.reason }}: {{ entry.reason }}</p>
  </article>
</template>

<style scoped>
.entry {
  max-width: 76ch;
  padding: 10px 0 14px;
  border-top: 1px solid var(--line);
}
.title {
  display: flex;
  align-items: flex-start;
  justify-content: space-between;
  gap: 12px;
}
h2,
h3 {
  font-size: 1.05rem;
}
ul {
  padding-left: 1.3em;
}
.detail {
  display: block;
  color: var(--muted);
  font-size: 0.875rem;
}
.taught {
  color: rgb(var(--v-theme-primary));
}
</style>
