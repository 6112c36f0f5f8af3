<script setup lang="ts">
import { ref, watch } from 'vue'

import { api } from '@/shared/api/client'
import { loadSession, session } from '@/shared/session/session'
import { text } from '@/shared/text'
import { undoBar } from '@/shared/undo'
import { useAttempt } from '@/shared/useAttempt'
import SecondStepForm from './SecondStepForm.vue'

/** One's own two-step sign-in: how to set it up, or to turn it off. */
const open = defineModel<boolean>('open', { required: true })
const words = text.secondStep
const password = ref('')
/** Each opening begins anew: no secret stays on a page that was left. */
const round = ref(0)
const { faults, failure, busy, clear, attempt } = useAttempt()
watch(open, () => {
  password.value = ''
  round.value += 1
  clear()
})

async function done() {
  open.value = false
  await loadSession()
}
const end = () =>
  attempt(async () => {
    await api.POST('/api/v1/session/second-step/end', { body: { password: password.value } })
    await done()
    undoBar.offer(words.wasEnded)
  })
</script>

<template>
  <v-dialog v-model="open" persistent max-width="500" aria-labelledby="second-step-title">
    <v-card class="padded">
      <h2 id="second-step-title">{{ words.title }}</h2>
      <form v-if="session.account?.second_step" class="form" @submit.prevent="end">
        <p>{{ words.stateOn(session.recoveryCodes ?? 0) }}</p>
        <v-text-field
          v-model="password"
          :label="text.people.currentPassword"
          :error-messages="faults.map((error) => `${error.message} ${error.remedy}`)"
          type="password"
          autocomplete="current-password"
          data-test="end-password"
        />
        <p v-if="failure" role="alert" class="failure">{{ failure }}</p>
        <div class="foot">
          <v-btn type="submit" color="error" variant="outlined" :loading="busy" data-test="end-second-step">{{
            words.end
          }}</v-btn>
          <v-btn @click="open = false">{{ text.people.cancel }}</v-btn>
        </div>
      </form>
      <SecondStepForm v-else :key="round" @done="done">
        <v-btn @click="open = false">{{ text.people.cancel }}</v-btn>
      </SecondStepForm>
    </v-card>
  </v-dialog>
</template>
