<script setup lang="ts">
import { ref } from 'vue'

import type { AppraisalView, Aspect, Domain, DomainAppraisal, StudyView } from '@/shared/api/types'
import SampleMark from '@/shared/layout/SampleMark.vue'
import { text } from '@/shared/text'
import { useSaving } from '@/shared/useSaving'
import { saveAppraisal } from './appraisalActions'
import AppraisalFields from './AppraisalFields.vue'
import KeptDialog from './KeptDialog.vue'
import { useKeptForm } from './useKeptForm'

/** Says domain by domain how far a study can be trusted, and how far it applies. */
const open = defineModel<boolean>('open', { required: true })
const props = defineProps<{ study: StudyView; aspect: Aspect }>()

const words = text.appraisal
const before = ref<AppraisalView>()
const domains = ref<Partial<Record<Domain, DomainAppraisal>>>({})
const { version, failure, saving, begin, of, save } = useSaving(words.conflict)

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
    <AppraisalFields v-model="domains" :aspect="aspect" :of="of" />
  </KeptDialog>
</template>

<style scoped>
.cited {
  margin-bottom: 12px;
}
</style>
