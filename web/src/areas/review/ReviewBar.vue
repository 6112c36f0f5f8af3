<script setup lang="ts">
import { computed, ref } from 'vue'
import type { RouteLocationRaw } from 'vue-router'

import { ApiProblem, api } from '@/shared/api/client'
import { refresh } from '@/shared/api/queries'
import type { Status, Step } from '@/shared/api/types'
import { at } from '@/shared/recordChanges'
import { may } from '@/shared/session/session'
import { text } from '@/shared/text'
import { undoBar } from '@/shared/undo'
import StatusMark from './StatusMark.vue'

/** Where a sheet or a plan stands, the steps that this person can take, and the way to its history. */
const props = defineProps<{
  record: {
    id: string
    version: number
    status: Status
    published_version?: number | null
    next_steps: Step[]
  }
  kind: 'tests' | 'plans'
  label: string
  history: RouteLocationRaw
}>()

const asked = ref<Step | null>(null)
const comment = ref('')
const failure = ref('')
const busy = ref(false)
const open = computed({ get: () => asked.value !== null, set: (on) => !on && (asked.value = null) })
const pending = computed(() => {
  const { status, published_version: version } = props.record
  return version && (status === 'draft' || status === 'in_review') ? text.review.stillShown : ''
})

function ask(step: Step) {
  asked.value = step
  comment.value = ''
  failure.value = ''
}

async function take() {
  if (!asked.value) return
  busy.value = true
  failure.value = ''
  const { id, version } = props.record
  const request = { ...at(id, version), body: { step: asked.value, comment: comment.value } }
  try {
    await (props.kind === 'tests'
      ? api.POST('/api/v1/tests/{id}/steps', request)
      : api.POST('/api/v1/plans/{id}/steps', request))
    undoBar.offer(text.review.done[asked.value])
    asked.value = null
    await refresh()
  } catch (cause) {
    if (!(cause instanceof ApiProblem)) throw cause
    failure.value = cause.fields.map((error) => `${error.message} ${error.remedy}`).join(' ') || cause.message
    await refresh()
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <section v-if="may('read_drafts')" class="review no-print" :aria-label="label" data-test="review">
    <StatusMark :status="record.status" />
    <span v-if="pending" class="small muted">{{ pending }}</span>
    <span class="spring" />
    <v-btn
      v-for="step in record.next_steps"
      :key="step"
      :variant="step === 'retire' ? 'text' : 'outlined'"
      :data-test="`step-${step}`"
      @click="ask(step)"
    >
      {{ text.review.steps[step] }}
    </v-btn>
    <v-btn variant="text" :to="history" data-test="history">
      {{ text.review.history }}
    </v-btn>
    <v-dialog v-model="open" max-width="480" aria-labelledby="step-title">
      <v-card v-if="asked" class="padded">
        <form class="form" @submit.prevent="take">
          <h2 id="step-title">{{ text.review.steps[asked] }}</h2>
          <p class="muted">{{ text.review.means[asked] }}</p>
          <v-textarea
            v-model="comment"
            :label="text.review.comment"
            rows="2"
            auto-grow
            autofocus
            data-test="step-comment"
          />
          <p v-if="failure" role="alert" class="failure">{{ failure }}</p>
          <div class="foot">
            <v-btn type="submit" color="primary" variant="flat" :loading="busy" data-test="take-step">
              {{ text.review.steps[asked] }}
            </v-btn>
            <v-btn @click="asked = null">{{ text.people.cancel }}</v-btn>
          </div>
        </form>
      </v-card>
    </v-dialog>
  </section>
</template>

<style scoped>
.review {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
  margin-bottom: 18px;
  padding: 7px 0;
  border-top: 1px solid var(--line);
  border-bottom: 1px solid var(--line);
}
.spring {
  flex: 1;
}
</style>
