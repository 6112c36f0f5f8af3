<script setup lang="ts">
import { computed } from 'vue'

import AppraisalMark from '@/figures/AppraisalMark.vue'
import { useAppraisalQuestions } from '@/shared/api/queries'
import type { Aspect, StudyView } from '@/shared/api/types'
import { text } from '@/shared/text'

/** The posts of a study's appraisal; who may, opens it there. */
const props = defineProps<{ study: StudyView; aspect: Aspect; editable: boolean; label: string }>()
const emit = defineEmits<{ appraise: [study: StudyView] }>()

const questions = useAppraisalQuestions()
const asked = computed(() => questions.data.value?.find((it) => it.aspect === props.aspect))
const appraisal = computed(() => props.study.appraisals.find((it) => it.aspect === props.aspect))
</script>

<template>
  <button
    v-if="asked && editable"
    type="button"
    class="posts"
    :aria-label="`${text.appraisal.open}: ${label}`"
    data-test="appraise"
    @click="emit('appraise', study)"
  >
    <AppraisalMark :asked="asked" :appraisal="appraisal" />
  </button>
  <span v-else-if="asked" class="posts"><AppraisalMark :asked="asked" :appraisal="appraisal" /></span>
</template>

<style scoped>
.posts {
  float: right;
  margin-left: 8px;
  padding: 1px 4px;
  border: 1px solid transparent;
  border-radius: 4px;
  color: inherit;
  background: none;
}
button {
  cursor: pointer;
}
@media screen and (max-width: 600px) {
  button {
    min-height: 44px;
  }
}
button:hover {
  border-color: var(--line);
}
</style>
