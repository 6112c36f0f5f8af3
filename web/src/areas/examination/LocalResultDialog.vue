<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import AppraisalFields from '@/areas/evidence/AppraisalFields.vue'
import SetupFields from '@/areas/evidence/SetupFields.vue'
import { newStudy } from '@/areas/evidence/studyDraft'
import { api, data } from '@/shared/api/client'
import { refresh, useSheets } from '@/shared/api/queries'
import type {
  AppraisalInput,
  Domain,
  DomainAppraisal,
  LocalStudy,
  OwnTestView,
  Region,
  ResultView,
} from '@/shared/api/types'
import { at } from '@/shared/recordChanges'
import { text } from '@/shared/text'
import { undoBar } from '@/shared/undo'
import { useSaving } from '@/shared/useSaving'

/** Enters what one's own records say of a test as a result of the catalogue: who was examined and how far that can be trusted first, then the counts. */
const open = defineModel<boolean>('open', { required: true })
const props = defineProps<{
  of: OwnTestView
  local: LocalStudy | null
  region: Region
  condition: string
}>()

const words = text.examination.local
const study = ref(newStudy().words)
const domains = ref<Partial<Record<Domain, DomainAppraisal>>>({})
const variant = ref('')
const standard = ref('')
const { saving, failure, errors, begin, of: fault, save } = useSaving(text.study.conflict)
const known = computed(() => props.local?.results.some((it) => it.test === props.of.test) ?? false)
const sheets = useSheets(() => (open.value ? [props.of.test] : []))
const variants = computed(() => (sheets.value[0]?.data?.variants ?? []).map(({ name }) => name))
const counts = computed(() => {
  const { positive_with, positive_without, negative_with, negative_without } = props.of.counts
  return words.counts([positive_with, positive_without, negative_with, negative_without])
})
const beside = computed(() => {
  const { positive_unverified, negative_unverified } = props.of.counts
  const neither = props.of.uninterpretable.reduce((sum, n) => sum + n, 0)
  return words.beside(positive_unverified + negative_unverified, neither)
})
/** Faults of fields that stand nowhere. */
const others = computed(() =>
  errors.value.filter(({ field }) => !/^(variant|reference_standard)$|^(study|appraisal)\./.test(field)),
)
watch(
  open,
  (opened) => {
    if (!opened) return
    begin(0)
    study.value = { ...newStudy().words, reference: words.reference(props.condition) }
    domains.value = {}
    variant.value = ''
    standard.value = ''
  },
  { immediate: true },
)
async function submit() {
  const first = !props.local
  const body = {
    test: props.of.test,
    condition: props.condition,
    region: props.region,
    study: first ? study.value : null,
    appraisal: first ? ({ domains: domains.value } as AppraisalInput) : null,
    variant: variant.value,
    reference_standard: standard.value,
  }
  const update = known.value
  let entered: ResultView | null = null
  const saved = await save(async () => {
    entered = data(await api.POST('/api/v1/examinations/own/results', { body }))
  })
  if (!saved || !entered) return
  open.value = false
  const { id, version } = entered as ResultView
  // What was brought up to date keeps its history; what was entered can be taken back.
  const undo = async () => {
    data(await api.DELETE('/api/v1/results/{id}', at(id, version)))
    await refresh()
  }
  undoBar.offer(words.saved(props.of.name), update ? undefined : undo)
}
</script>

<template>
  <v-dialog v-model="open" max-width="900" persistent aria-labelledby="local-title">
    <v-card class="padded" data-test="local-dialog">
      <h2 id="local-title" dir="auto">{{ words.title(of.name) }}</h2>
      <p class="small muted">{{ words.about }}</p>
      <form novalidate @submit.prevent="submit">
        <p v-if="failure" class="failure" role="alert">{{ failure }}</p>
        <p v-for="it in others" :key="it.field" class="failure" role="alert">
          {{ it.message }} {{ it.remedy }}
        </p>
        <p data-test="local-counts">
          {{ counts }} <span class="small muted">{{ beside }}</span>
        </p>
        <v-select
          v-if="variants.length > 1"
          v-model="variant"
          :items="[{ value: '', title: words.taught }, ...variants.map((it) => ({ value: it, title: it }))]"
          :label="text.pool.facets.variant"
          :error-messages="fault('variant')"
        />
        <v-text-field
          v-model="standard"
          :label="text.pool.facets.reference_standard"
          :error-messages="fault('reference_standard')"
          data-test="local-standard"
        />
        <p v-if="local" class="small" dir="auto" data-test="local-study">
          {{ words.same(local.study.reference) }}
        </p>
        <template v-else>
          <h3>{{ words.study }}</h3>
          <v-text-field
            v-model="study.reference"
            :label="words.source"
            :error-messages="fault('study.reference')"
            data-test="local-reference"
          />
          <v-text-field
            v-model="study.population"
            :label="text.study.population"
            :error-messages="fault('study.population')"
            dir="auto"
          />
          <SetupFields v-model="study.setup" :of="(field) => fault(`study.${field}`)" />
          <h3>{{ words.appraise }}</h3>
          <p class="small muted">{{ words.appraiseAbout }}</p>
          <AppraisalFields v-model="domains" aspect="accuracy" :of="(field) => fault(`appraisal.${field}`)" />
        </template>
        <p class="foot">
          <v-btn type="submit" color="primary" variant="flat" :loading="saving" data-test="save-local">{{
            known ? words.update : words.save
          }}</v-btn>
          <v-btn data-test="cancel-local" @click="open = false">{{ text.study.cancel }}</v-btn>
        </p>
      </form>
    </v-card>
  </v-dialog>
</template>

<style scoped>
form {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 8px;
  margin-top: 8px;
}
h3 {
  margin-top: 8px;
  font-size: 1rem;
}
.foot {
  display: flex;
  gap: 10px;
  margin-top: 8px;
}
</style>
