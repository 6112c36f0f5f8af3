<script setup lang="ts">
import { computed, ref } from 'vue'

import { useAppraisalQuestions, useSuggestions } from '@/shared/api/queries'
import type { AppraisalView, Aspect, Domain, DomainAppraisal, StudyView } from '@/shared/api/types'
import SampleMark from '@/shared/layout/SampleMark.vue'
import WaitLine from '@/shared/layout/WaitLine.vue'
import { text } from '@/shared/text'
import { useSaving } from '@/shared/useSaving'
import { saveAppraisal } from './appraisalActions'
import ChoiceLine from './ChoiceLine.vue'
import KeptDialog from './KeptDialog.vue'
import { useKeptForm } from './useKeptForm'

/** Says domain by domain how far a study can be trusted, and how far it applies. */
const open = defineModel<boolean>('open', { required: true })
const props = defineProps<{ study: StudyView; aspect: Aspect }>()

const words = text.appraisal
const questions = useAppraisalQuestions()
const asked = computed(() => questions.data.value?.find((it) => it.aspect === props.aspect)?.domains ?? [])
const before = ref<AppraisalView>()
const domains = ref<Partial<Record<Domain, DomainAppraisal>>>({})
const { version, failure, saving, begin, of, save } = useSaving(words.conflict)
const suggested = useSuggestions(() => props.aspect, domains, open)

const kept = useKeptForm({
  open,
  what: () => `${props.aspect}-appraisal` as const,
  place: () => props.study.id,
  fill: () => {
    before.value = props.study.appraisals.find((it) => it.aspect === props.aspect)
    begin(before.value?.version ?? 0)
    domains.value = structuredClone(JSON.parse(JSON.stringify(before.value?.domains ?? {})))
  },
  of: [domains],
  typed: () => domains.value,
  take: (left) => (domains.value = left),
  version,
})
const said = (domain: Domain): Partial<DomainAppraisal> => domains.value[domain] ?? {}
function set(domain: Domain, change: Partial<DomainAppraisal>) {
  const blank = { answers: {}, risk: null, concern: null, reason: '' }
  domains.value = { ...domains.value, [domain]: { ...blank, ...said(domain), ...change } }
}
function answer(domain: Domain, question: string, given: string) {
  set(domain, { answers: { ...said(domain).answers, [question]: given } as DomainAppraisal['answers'] })
}
async function submit() {
  const body = { domains: domains.value as AppraisalView['domains'] }
  const saved = await save(() =>
    saveAppraisal(props.study.id, props.aspect, version.value, before.value, body),
  )
  if (saved) await kept.saved()
}
</script>

<template>
  <KeptDialog
    v-model:open="open"
    name="appraisal"
    :title="words.title[aspect]"
    :save-label="words.save"
    :correcting="Boolean(before)"
    :failure="failure"
    :saving="saving"
    :kept="kept"
    :width="900"
    @save="submit"
  >
    <template #mark><SampleMark v-if="study.sample" /></template>
    <template #before>
      <p class="small muted wrap-anywhere cited" dir="auto">{{ study.cited?.citation ?? study.reference }}</p>
    </template>
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
  </KeptDialog>
</template>

<style scoped>
.cited {
  margin-bottom: 12px;
}
section {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 6px;
  padding: 12px 0;
  border-top: 1px solid var(--line);
}
</style>
