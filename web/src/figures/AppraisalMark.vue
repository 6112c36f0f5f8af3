<script setup lang="ts">
import { computed } from 'vue'

import type { AppraisalView, AskedAspect } from '@/shared/api/types'
import { text } from '@/shared/text'
import AppraisalPost from './AppraisalPost.vue'

/** A post for each domain of an appraisal, in the order in which they are asked. */
const props = defineProps<{ asked: AskedAspect; appraisal: AppraisalView | undefined }>()

const STEP = 10
const posts = computed(() =>
  props.asked.domains.map(({ domain }) => ({ domain, risk: props.appraisal?.domains[domain]?.risk ?? null })),
)
const said = computed(() =>
  posts.value
    .map(({ domain, risk }) => `${text.appraisal.domains[domain]}: ${text.appraisal.riskOf(risk)}`)
    .join('; '),
)
</script>

<template>
  <svg class="mark" :width="posts.length * STEP" height="18" role="img" :aria-label="said">
    <title>{{ said }}</title>
    <g v-for="(post, index) in posts" :key="post.domain" :transform="`translate(${2 + index * STEP} 1)`">
      <AppraisalPost :risk="post.risk" />
    </g>
  </svg>
</template>

<style scoped>
.mark {
  vertical-align: middle;
}
</style>
