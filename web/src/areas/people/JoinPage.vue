<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'

import { api, data } from '@/shared/api/client'
import type { InvitationView } from '@/shared/api/types'
import StateNotice from '@/shared/layout/StateNotice.vue'
import WaitLine from '@/shared/layout/WaitLine.vue'
import { join } from '@/shared/session/session'
import { text } from '@/shared/text'
import { useAttempt } from '@/shared/useAttempt'
import AlonePage from './AlonePage.vue'

/** An invitation's page; the secret stands in the fragment, which is sent to nobody. */
const router = useRouter()
const secret = window.location.hash.slice(1)
const invitation = ref<InvitationView | null>(null)
const login = ref('')
const name = ref('')
const password = ref('')
const { faults: errors, failure: gone, busy, attempt } = useAttempt()
const of = (field: string) =>
  errors.value.filter((error) => error.field === field).map((error) => `${error.message} ${error.remedy}`)
const title = computed(() =>
  invitation.value ? text.people.joinTitle(text.roles[invitation.value.role]) : '',
)

void attempt(async () => {
  invitation.value = data(await api.POST('/api/v1/join/offer', { body: { secret } }))
})
const accept = () =>
  attempt(async () => {
    await join(secret, login.value, name.value, password.value)
    await router.replace({ name: 'catalogue' })
  })
</script>

<template>
  <AlonePage>
    <StateNotice v-if="gone && !invitation" tone="error" :title="text.people.joinFailed" :detail="gone">
      <v-btn :to="{ name: 'catalogue' }">{{ text.people.toSignIn }}</v-btn>
    </StateNotice>
    <WaitLine v-else-if="!invitation" />
    <form v-else class="form" @submit.prevent="accept">
      <h1>{{ title }}</h1>
      <p class="muted">{{ text.people.roleMeans[invitation.role] }}</p>
      <v-text-field
        v-model="login"
        :label="text.people.login"
        :hint="text.people.loginHint"
        :error-messages="of('login')"
        persistent-hint
        autocomplete="username"
        autocapitalize="none"
        data-test="login"
        autofocus
      />
      <v-text-field
        v-model="name"
        :label="text.people.name"
        :error-messages="of('name')"
        autocomplete="name"
        data-test="name"
      />
      <v-text-field
        v-model="password"
        :label="text.people.password"
        :hint="text.people.passwordHint"
        :error-messages="of('password')"
        persistent-hint
        type="password"
        autocomplete="new-password"
        data-test="password"
      />
      <p v-if="gone" role="alert" class="failure">{{ gone }}</p>
      <v-btn type="submit" color="primary" variant="flat" :loading="busy" data-test="join">
        {{ text.people.join }}
      </v-btn>
    </form>
  </AlonePage>
</template>
