<script setup lang="ts">
import { mdiClose, mdiPlus } from '@mdi/js'
import { computed, ref, watch } from 'vue'

import { api } from '@/shared/api/client'
import { useTests } from '@/shared/api/queries'
import type { Region, TeachingClaim, TeachingConflictInput, TeachingConflictView } from '@/shared/api/types'
import IconButton from '@/shared/layout/IconButton.vue'
import { options } from '@/shared/question/useListPage'
import { text } from '@/shared/text'
import { undoBar } from '@/shared/undo'
import { useSaving } from '@/shared/useSaving'

/** Files an entry of the register, or changes one. */
const open = defineModel<boolean>('open', { required: true })
const props = defineProps<{
  entry: TeachingConflictView | null
  region: Region
  /** A contradiction that the checks of a sheet found. */
  began: { test: string; question: string } | null
}>()

const words = text.conflicts
const claim = (): TeachingClaim => ({ claim: '', source: '', evidence: '' })
type Draft = Required<TeachingConflictInput> & { claims: Required<TeachingClaim>[] }
const blank = (): Draft => ({
  region: props.region,
  tests: props.began ? [props.began.test] : [],
  topic: null,
  question: props.began?.question ?? '',
  claims: [claim(), claim()] as Required<TeachingClaim>[],
  verdict: 'open',
  favours: null,
  reason: '',
})
const draft = ref<Draft>(blank())
const { failure, saving, begin, of, save: attempt } = useSaving(words.conflict)
const tests = useTests(() => ({ region: props.region, search: '', sort: 'name' as const, reverse: false }))
const named = computed(() =>
  (tests.data.value?.rows ?? []).map(({ id, name }) => ({ value: id, title: name })),
)

watch(open, (shown) => {
  if (!shown) return
  const from = props.entry
  draft.value = from
    ? {
        region: from.region,
        tests: [...from.tests],
        topic: from.topic,
        question: from.question,
        claims: from.claims.map((it) => ({ ...(claim() as Required<TeachingClaim>), ...it })),
        verdict: from.verdict,
        favours: from.favours ?? null,
        reason: from.reason,
      }
    : blank()
  begin(from?.version)
})
function removeClaim(place: number) {
  draft.value.claims.splice(place, 1)
  const { favours } = draft.value
  if (favours === null || favours === undefined || favours < place) return
  draft.value.favours = favours === place ? null : favours - 1
}
const places = computed(() =>
  draft.value.claims.map((it, value) => ({ value, title: `${words.claim(value + 1)}: ${it.claim}` })),
)

async function save() {
  const id = props.entry?.id
  // The region of the address may become known only after the form was opened.
  const region = props.entry?.region ?? props.region
  const body = {
    ...draft.value,
    region,
    favours: draft.value.verdict === 'favours' ? draft.value.favours : null,
  }
  const saved = await attempt((header) =>
    id
      ? api.PUT('/api/v1/teaching-conflicts/{id}', { params: { path: { id }, header }, body })
      : api.POST('/api/v1/teaching-conflicts', { body }),
  )
  if (!saved) return
  undoBar.offer(words.saved)
  open.value = false
}
</script>

<template>
  <v-dialog v-model="open" max-width="720" scrollable>
    <v-card class="card" data-test="conflict-dialog">
      <form class="dialog-form" novalidate @submit.prevent="save">
        <h2>{{ entry ? words.editEntry : words.add }}</h2>
        <p v-if="failure" role="alert" class="failure">{{ failure }}</p>
        <v-textarea
          v-model="draft.question"
          :label="words.question"
          rows="1"
          auto-grow
          dir="auto"
          autofocus
          :error-messages="of('question')"
          data-test="conflict-question"
        />
        <div class="pair">
          <v-select
            v-model="draft.topic"
            :items="options(words.topics)"
            :label="words.topic"
            :error-messages="of('topic')"
            data-test="conflict-topic"
          />
          <v-autocomplete
            v-model="draft.tests"
            :items="named"
            :label="words.tests"
            multiple
            chips
            closable-chips
            :error-messages="of('tests')"
            data-test="conflict-tests"
          />
        </div>
        <fieldset v-for="(it, place) in draft.claims" :key="place" class="claim">
          <legend>{{ words.claim(place + 1) }}</legend>
          <IconButton
            v-if="draft.claims.length > 2"
            class="away"
            :icon="mdiClose"
            :label="words.removeClaim(place + 1)"
            @click="removeClaim(place)"
          />
          <v-textarea
            v-model="it.claim"
            :label="words.claimText"
            rows="1"
            auto-grow
            dir="auto"
            :error-messages="of(`claims[${place}].claim`)"
            :data-test="`claim-${place}`"
          />
          <div class="pair">
            <v-text-field
              v-model="it.source"
              :label="words.source"
              dir="auto"
              :error-messages="of(`claims[${place}].source`)"
              :data-test="`claim-source-${place}`"
            />
            <v-text-field
              v-model="it.evidence"
              :label="words.evidence"
              dir="auto"
              :error-messages="of(`claims[${place}].evidence`)"
            />
          </div>
        </fieldset>
        <p v-if="of('claims').length && draft.claims.length < 2" role="alert" class="failure">
          {{ of('claims').join(' ') }}
        </p>
        <v-btn
          class="more"
          size="small"
          variant="text"
          :prepend-icon="mdiPlus"
          @click="draft.claims.push(claim() as Required<TeachingClaim>)"
        >
          {{ words.addClaim }}
        </v-btn>
        <div class="pair">
          <v-select
            v-model="draft.verdict"
            :items="options(words.verdicts)"
            :label="words.verdict"
            data-test="conflict-verdict"
          />
          <v-select
            v-if="draft.verdict === 'favours'"
            v-model="draft.favours"
            :items="places"
            :label="words.favours"
            :error-messages="of('favours')"
            data-test="conflict-favours"
          />
        </div>
        <v-textarea
          v-model="draft.reason"
          :label="words.reason"
          rows="1"
          auto-grow
          dir="auto"
          :error-messages="of('reason')"
          data-test="conflict-reason"
        />
        <div class="foot">
          <v-btn type="submit" variant="flat" color="primary" :loading="saving" data-test="save-conflict">
            {{ words.save }}
          </v-btn>
          <v-btn variant="text" @click="open = false">{{ words.cancel }}</v-btn>
        </div>
      </form>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.card {
  overflow-y: auto;
}
.claim {
  position: relative;
  display: grid;
  gap: 10px;
  padding: 4px 0 0 12px;
  border: 0;
  border-left: 3px solid var(--line);
}
.claim legend {
  padding: 0;
  font-size: 0.875rem;
  font-weight: 600;
}
.more {
  justify-self: start;
}
.away {
  position: absolute;
  top: -6px;
  right: 0;
}
.foot {
  gap: 8px;
}
</style>
