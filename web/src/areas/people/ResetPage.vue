<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'

import { api, data } from '@/shared/api/client'
import type { ResetView } from '@/shared/api/types'
import StateNotice from '@/shared/layout/StateNotice.vue'
import WaitLine from '@/shared/layout/WaitLine.vue'
import { resetPassword } from '@/shared/session/session'
import { text } from '@/shared/text'
import { useAttempt } from '@/shared/useAttempt'
import AlonePage from './AlonePage.vue'
import CodeField from './CodeField.vue'

/** Where a link leads with which somebody sets a new password; the secret stands in the fragment, which is sent to nobody. */
const router = useRouter()
const secret = window.location.hash.slice(1)
const reset = ref<ResetView | null>(null)
const password = ref('')
const code = ref('')
const { faults, failure, busy, attempt } = useAttempt()
const errors = computed(() => faults.value.map((error) => `${error.message} ${error.remedy}`))

void attempt(async () => {
  reset.value = data(await api.POST('/api/v1/reset/offer', { body: { secret } }))
})
const save = () =>
  attempt(async () => {
    await resetPassword(secret, password.value, code.value)
    await router.replace({ name: 'catalogue' })
  })
</script>

<template>
  <AlonePage>
    <StateNotice v-if="failure && !reset" tone="error" :title="text.people.resetFailed" :detail="failure">
      <v-btn :to="{ name: 'catalogue' }">{{ text.people.toSignIn }}</v-btn>
    </StateNotice>
    <WaitLine v-else-if="!reset" />
    <form v-else class="form" @submit.prevent="save">
      <h1>{{ text.people.resetTitle(reset.name) }}</h1>
      <p class="muted">{{ text.people.resetAbout(reset.login) }}</p>
      <!-- For the browser's own keeper of passwords. -->
      <input
        class="visually-hidden"
        :value="reset.login"
        autocomplete="username"
        readonly
        tabindex="-1"
        aria-hidden="true"
      />
      <v-text-field
        v-model="password"
        :label="text.people.newPassword"
        :hint="text.people.passwordHint"
        :error-messages="errors"
        persistent-hint
        type="password"
        autocomplete="new-password"
        data-test="password"
        autofocus
      />
      <CodeField v-if="reset.second_step" v-model="code" quiet />
      <p v-if="failure" role="alert" class="failure">{{ failure }}</p>
      <v-btn type="submit" color="primary" variant="flat" :loading="busy" data-test="set-password">
        {{ text.people.setPassword }}
      </v-btn>
    </form>
  </AlonePage>
</template>
