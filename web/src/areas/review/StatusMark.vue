<script setup lang="ts">
import type { Status } from '@/shared/api/types'
import { text } from '@/shared/text'

/** The status in words; its border tells it apart without colour. */
defineProps<{ status: Status }>()
</script>

<template>
  <span class="mark" :class="status" data-test="status">{{ text.review.status[status] }}</span>
</template>

<style scoped>
.mark {
  display: inline-block;
  margin-right: 4px;
  padding: 0 7px;
  border: 1px dashed var(--muted);
  border-radius: 4px;
  font-size: 0.75rem;
  line-height: 1.35;
  white-space: nowrap;
}
.in_review {
  border-style: dotted;
  border-color: currentcolor;
}
.published {
  border-style: solid;
}
.retired {
  text-decoration: line-through;
}
</style>
