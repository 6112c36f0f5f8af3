<script setup lang="ts">
import { computed, ref } from 'vue'

import type { ReferenceInput, ReferenceView } from '@/shared/api/types'
import SampleMark from '@/shared/layout/SampleMark.vue'
import { text } from '@/shared/text'
import { useSaving } from '@/shared/useSaving'
import AlikeNote from './AlikeNote.vue'
import KeptDialog from './KeptDialog.vue'
import LookUp from './LookUp.vue'
import { addReference, authorLines, authorsFrom, correctReference, referenceInput } from './referenceActions'
import { useKeptForm } from './useKeptForm'

/** Adds a reference, or corrects one. An identifier fills it in; whatever looks like the same work is named at once. */
const open = defineModel<boolean>('open', { required: true })
const props = defineProps<{ reference: ReferenceView | null }>()

const empty: ReferenceInput = {
  kind: 'journal_article',
  title: '',
  authors: [],
  year: null,
  container: '',
  volume: '',
  issue: '',
  pages: '',
  publisher: '',
  doi: '',
  pmid: '',
  url: '',
}
const draft = ref<ReferenceInput>({ ...empty })
const authors = ref('')
const { version, failure, saving, begin, of, save: attempt } = useSaving(text.references.conflict)
const body = computed<ReferenceInput>(() => ({ ...draft.value, authors: authorsFrom(authors.value) }))
const kinds = Object.entries(text.references.kinds).map(([value, title]) => ({ value, title }))

const kept = useKeptForm({
  open,
  what: () => 'reference' as const,
  place: () => props.reference?.id ?? 'new',
  fill: () => {
    fill(props.reference ? referenceInput(props.reference) : empty)
    begin(props.reference?.version)
  },
  of: [draft, authors],
  typed: () => ({ draft: draft.value, authors: authors.value }),
  take: (left) => {
    draft.value = { ...empty, ...left.draft }
    authors.value = left.authors
  },
  version,
})
function fill(from: ReferenceInput) {
  draft.value = { ...from }
  authors.value = authorLines(from.authors ?? [])
}

function setYear(typed: string) {
  draft.value.year = typed.trim() === '' ? null : Number(typed)
}

async function save() {
  const from = props.reference
  const saved = await attempt(() =>
    from ? correctReference(from, version.value, body.value) : addReference(body.value),
  )
  if (saved) await kept.saved()
}
</script>

<template>
  <KeptDialog
    v-model:open="open"
    name="reference"
    :title="reference ? text.references.editTitle : text.references.addTitle"
    :save-label="text.references.save"
    :correcting="Boolean(reference)"
    :failure="failure"
    :saving="saving"
    :kept="kept"
    :width="760"
    @save="save"
  >
    <template #mark><SampleMark v-if="reference?.sample" /></template>
    <template #before><LookUp v-if="!reference" @found="fill" /></template>
    <div class="fields">
      <v-textarea
        v-model="draft.title"
        :label="text.references.fields.title"
        rows="1"
        auto-grow
        dir="auto"
        :error-messages="of('title')"
        data-test="title"
      />
      <v-textarea
        v-model="authors"
        :label="text.references.fields.authors"
        :hint="text.references.authorsHint"
        persistent-hint
        rows="2"
        auto-grow
        dir="auto"
        :error-messages="of('authors')"
        data-test="authors"
      />
      <v-text-field
        v-model="draft.container"
        :label="text.references.fields.container"
        dir="auto"
        :error-messages="of('container')"
      />
      <div class="row print">
        <v-select v-model="draft.kind" :items="kinds" :label="text.references.fields.kind" />
        <v-text-field
          :model-value="draft.year ?? ''"
          type="number"
          inputmode="numeric"
          :label="text.references.fields.year"
          :error-messages="of('year')"
          data-test="year"
          @update:model-value="setYear(String($event ?? ''))"
        />
        <v-text-field
          v-for="name in ['volume', 'issue', 'pages'] as const"
          :key="name"
          v-model="draft[name]"
          :label="text.references.fields[name]"
          :error-messages="of(name)"
        />
      </div>
      <div class="row identifiers">
        <v-text-field
          v-for="name in ['doi', 'pmid', 'publisher', 'url'] as const"
          :key="name"
          v-model="draft[name]"
          :label="text.references.fields[name]"
          :error-messages="of(name)"
          :data-test="name"
        />
      </div>
      <AlikeNote :reference="body" :except="reference?.id" />
    </div>
  </KeptDialog>
</template>

<style scoped>
.fields {
  display: grid;
  gap: 12px;
  margin-top: 14px;
}
.row {
  display: grid;
  gap: 12px;
  align-items: start;
}
.print {
  grid-template-columns: minmax(0, 2.2fr) repeat(4, minmax(0, 1fr));
}
.identifiers {
  grid-template-columns: minmax(0, 1.6fr) minmax(0, 1.3fr) minmax(0, 1.2fr) minmax(0, 1.2fr);
}
@media (max-width: 700px) {
  .row {
    grid-template-columns: 1fr 1fr;
  }
}
</style>
