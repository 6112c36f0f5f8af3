<script setup lang="ts">
import { computed } from 'vue'

import { limitWords } from '@/areas/pooling/words'
import CrowdPicture from '@/figures/CrowdPicture.vue'
import IncidentalNote from '@/areas/evidence/IncidentalNote.vue'
import { useAnswers, usePrevalence } from '@/shared/api/queries'
import type { PooledAnswer, Region } from '@/shared/api/types'
import { percent, percentInterval, percentPoint } from '@/shared/format'
import FailureNotice from '@/shared/layout/FailureNotice.vue'
import SampleMark from '@/shared/layout/SampleMark.vue'
import { useQuestion } from '@/shared/question/useQuestion'
import { text } from '@/shared/text'

/** What a positive and a negative result of one test mean at the pre-test probability of the question. */
const props = defineProps<{ id: string; region: Region; target: string; answer: PooledAnswer | null }>()

const { condition: asked, preTest, carried, asking } = useQuestion()
const fits = computed(() => !asked.value || asked.value.name === props.target)
const answers = useAnswers(preTest, () =>
  props.answer?.pooled && fits.value ? [{ test: props.id, figures: props.answer.figures }] : [],
)
const found = computed(() => answers.data.value?.find((entry) => entry.test === props.id) ?? null)
/** Of the condition that the answer is about. */
const prevalence = usePrevalence(() => (fits.value ? asked.value?.id : undefined))
const limits = computed(() => limitWords(props.answer?.pooled?.warnings ?? []))
</script>

<template>
  <section v-if="answer" class="answer" data-test="answer">
    <h2>
      {{ text.answer.title(percent(preTest)) }}
      <SampleMark v-if="answer.sample" />
    </h2>
    <p v-if="!fits" class="small">
      {{ text.answer.otherCondition(asked?.name ?? '', target) }}
      <router-link
        class="no-print"
        :to="{ query: asking({ region, condition: target }) }"
        replace
        data-test="ask-own"
        >{{ text.answer.ask(target) }}</router-link
      >
    </p>
    <p v-else-if="!answer.pooled" class="small">{{ text.answer.none }}</p>
    <FailureNotice v-else-if="answers.isError.value && !found" :query="answers" :title="text.answer.failed" />
    <template v-else-if="found">
      <div class="pair">
        <div class="raises">
          <span class="small">{{ text.answer.positive }}</span>
          <template v-if="found.after_positive">
            <b data-test="after-positive">{{ percentPoint(found.after_positive) }}</b>
            <span class="small muted">{{ percentInterval(found.after_positive) }}</span>
          </template>
          <span v-else class="muted">{{ text.unknown }}</span>
        </div>
        <div class="lowers">
          <span class="small">{{ text.answer.negative }}</span>
          <template v-if="found.after_negative">
            <b data-test="after-negative">{{ percentPoint(found.after_negative) }}</b>
            <span class="small muted">{{ percentInterval(found.after_negative) }}</span>
          </template>
          <span v-else class="muted">{{ text.unknown }}</span>
        </div>
      </div>
      <CrowdPicture v-if="found.frequencies" :frequencies="found.frequencies" />
      <p v-for="limit in limits" :key="limit" class="small limit">{{ limit }}</p>
      <IncidentalNote
        v-if="asked && prevalence.data.value"
        :prevalence="prevalence.data.value"
        :condition="asked"
      />
      <p class="small no-print">
        <router-link
          :to="{ name: 'patient', query: { ...carried, look: id } }"
          class="alone"
          data-test="to-patient"
          >{{ text.answer.more }}</router-link
        >
      </p>
    </template>
  </section>
</template>

<style scoped>
.answer {
  margin-bottom: 20px;
}
h2 {
  font-size: 1.05rem;
}
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 14px;
  margin: 8px 0 12px;
}
.pair > div {
  display: grid;
  padding: 6px 0 2px 12px;
  border-left: 4px solid currentColor;
}
.pair b {
  font-size: 1.8rem;
  line-height: 1.15;
}
.limit {
  margin-top: 6px;
  font-weight: 600;
}
.raises {
  color: var(--raises);
}
.lowers {
  color: var(--lowers);
  border-left-style: double !important;
}
</style>
