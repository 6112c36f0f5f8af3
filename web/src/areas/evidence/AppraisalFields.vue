<script setup lang="ts">
import { computed } from 'vue'

import { useAppraisalQuestions, useSuggestions } from '@/shared/api/queries'
import type { Aspect, Domain, DomainAppraisal } from '@/shared/api/types'
import WaitLine from '@/shared/layout/WaitLine.vue'
import { text } from '@/shared/text'
import ChoiceLine from './ChoiceLine.vue'

/** How far a study can be trusted and how far it applies, domain by domain. */
const domains = defineModel<Partial<Record<Domain, DomainAppraisal>>>({ required: true })
const props = defineProps<{ aspect: Aspect; of: (field: string) => string[] }>()

const words = text.appraisal
const questions = useAppraisalQuestions()
const asked = computed(() => questions.data.value?.find((it) => it.aspect === props.aspect)?.domains ?? [])
const suggested = useSuggestions(() => props.aspect, domains, true)

const said = (domain: Domain): Partial<DomainAppraisal> => domains.value[domain] ?? {}
function set(domain: Domain, change: Partial<DomainAppraisal>) {
  const blank = { answers: {}, risk: null, concern: null, reason: '' }
  domains.value = { ...domains.value, [domain]: { ...blank, ...said(domain), ...change } }
}
function answer(domain: Domain, question: string, given: string) {
  set(domain, { answers: { ...said(domain).answers, [question]: given } as DomainAppraisal['answers'] })
}
</script>

<template>
  <div>
    <WaitLine v-if="questions.isPending.value" />
    <p v-if="questions.isError.value" role="alert">{{ questions.error.value?.message }}</p>
    <section v-for="{ domain, concern, questions: list } in asked" :key="domain" :data-test="domain">
      <h3>{{ words.domains[domain] }}</h3>
      <ChoiceLine
        v-for="question in list"
        :key="question"
        :label="words.questions[question]"
        :choices="words.answers"
        :model-value="said(domain).answers?.[question] ?? null"
        :data-test="question"
        @update:model-value="answer(domain, question, String($event))"
      />
      <ChoiceLine
        strong
        :label="words.risk"
        :note="suggested[domain] ? words.suggest(suggested[domain]) : ''"
        :choices="words.judgements"
        :model-value="said(domain).risk ?? null"
        :data-test="`${domain}-risk`"
        @update:model-value="set(domain, { risk: $event as DomainAppraisal['risk'] })"
      />
      <ChoiceLine
        v-if="concern"
        strong
        :label="words.concern"
        :choices="words.judgements"
        :model-value="said(domain).concern ?? null"
        :data-test="`${domain}-concern`"
        @update:model-value="set(domain, { concern: $event as DomainAppraisal['concern'] })"
      />
      <v-textarea
        :model-value="said(domain).reason ?? ''"
        :label="words.reason"
        rows="1"
        auto-grow
        dir="auto"
        :error-messages="of(`domains.${domain}.reason`)"
        :data-test="`${domain}-reason`"
        @update:model-value="set(domain, { reason: $event })"
      />
    </section>
    <p class="small muted">{{ words.source[aspect] }}</p>
  </div>
</template>

<style scoped>
section {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 6px;
  padding: 12px 0;
  border-top: 1px solid var(--line);
}
</style>
