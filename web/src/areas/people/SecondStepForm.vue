<script setup lang="ts">
import { ref } from 'vue'

import { api, data } from '@/shared/api/client'
import type { SecondStepOffer } from '@/shared/api/types'
import { session } from '@/shared/session/session'
import { text } from '@/shared/text'
import { useAttempt } from '@/shared/useAttempt'

/** Setting up two-step sign-in: password, device, recovery codes. The slot holds the way out, which ends where recovery codes would be lost by it. */
const emit = defineEmits<{ done: [] }>()
const words = text.secondStep
const password = ref('')
const code = ref('')
const offer = ref<SecondStepOffer | null>(null)
const recovery = ref<string[]>([])
const kept = ref(false)
const { faults, failure, busy, attempt } = useAttempt()
const wrong = () => faults.value.map((error) => `${error.message} ${error.remedy}`)

const begin = () =>
  attempt(async () => {
    offer.value = data(await api.POST('/api/v1/session/second-step', { body: { password: password.value } }))
    password.value = ''
  })
const confirm = () =>
  attempt(
    async () => {
      recovery.value = data(
        await api.PUT('/api/v1/session/second-step', { body: { code: code.value } }),
      ).codes
    },
    () => (code.value = ''),
  )

function download() {
  const lines = [words.fileTitle(session.account?.login ?? ''), '', ...recovery.value, '']
  const link = document.createElement('a')
  link.href = URL.createObjectURL(new Blob([lines.join('\n')], { type: 'text/plain' }))
  link.download = 'pruvex-recovery-codes.txt'
  link.click()
  URL.revokeObjectURL(link.href)
}
</script>

<template>
  <form v-if="recovery.length" class="form" @submit.prevent="emit('done')">
    <p role="status">{{ words.isOn }}</p>
    <p>{{ words.recoveryAbout }}</p>
    <ul class="codes" data-test="recovery-codes">
      <li v-for="it in recovery" :key="it">
        <code>{{ it }}</code>
      </li>
    </ul>
    <v-btn @click="download">{{ words.download }}</v-btn>
    <v-checkbox v-model="kept" :label="words.kept" hide-details data-test="codes-kept" />
    <v-btn type="submit" color="primary" variant="flat" :disabled="!kept" data-test="second-step-done">{{
      words.done
    }}</v-btn>
  </form>
  <form v-else-if="offer" class="form" novalidate @submit.prevent="confirm">
    <p>{{ words.scan }}</p>
    <img class="picture" :src="offer.picture" :alt="words.pictureAlt" />
    <p class="small">
      {{ words.orType }} <code class="wrap-anywhere" data-test="second-step-secret">{{ offer.secret }}</code>
    </p>
    <p class="small">
      <a :href="offer.link">{{ words.openHere }}</a>
    </p>
    <v-text-field
      v-model="code"
      :label="words.firstCode"
      :error-messages="wrong()"
      inputmode="numeric"
      autocomplete="one-time-code"
      data-test="first-code"
      autofocus
    />
    <p v-if="failure" role="alert" class="failure">{{ failure }}</p>
    <div class="foot">
      <v-btn type="submit" color="primary" variant="flat" :loading="busy" data-test="confirm-second-step">{{
        words.confirm
      }}</v-btn>
      <slot />
    </div>
  </form>
  <form v-else class="form" @submit.prevent="begin">
    <p>{{ words.about }}</p>
    <v-text-field
      v-model="password"
      :label="text.people.currentPassword"
      :error-messages="wrong()"
      type="password"
      autocomplete="current-password"
      data-test="second-step-password"
      autofocus
    />
    <p v-if="failure" role="alert" class="failure">{{ failure }}</p>
    <div class="foot">
      <v-btn type="submit" color="primary" variant="flat" :loading="busy" data-test="begin-second-step">{{
        words.begin
      }}</v-btn>
      <slot />
    </div>
  </form>
</template>

<style scoped>
/* Scanned on a dark page, too: black on white, with its margin. */
.picture {
  width: 220px;
  height: 220px;
  border-radius: 6px;
  background: #fff;
  image-rendering: pixelated;
}
.codes {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(150px, 1fr));
  gap: 4px 18px;
  width: 100%;
  padding: 0;
  list-style: none;
}
</style>
