<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'

import { ApiProblem, api, data } from '@/shared/api/client'
import type { FieldError, InvitationView } from '@/shared/api/types'
import StateNotice from '@/shared/layout/StateNotice.vue'
import WaitLine from '@/shared/layout/WaitLine.vue'
import { join } from '@/shared/session/session'
import { text } from '@/shared/text'

/** An invitation's page; the secret stands in the fragment, which is sent to nobody. */
const router = useRouter()
const secret = window.location.hash.slice(1)
const invitation = ref<InvitationView | null>(null)
const gone = ref('')
const login = ref('')
const name = ref('')
const password = ref('')
const errors = ref<FieldError[]>([])
const busy = ref(false)
const of = (field: string) =>
  errors.value.filter((error) => error.field === field).map((error) => `${error.message} ${error.remedy}`)
const title = computed(() =>
  invitation.value ? text.people.joinTitle(text.roles[invitation.value.role]) : '',
)

async function attempt(action: () => Promise<void>) {
  busy.value = true
  try {
    await action()
  } catch (cause) {
    if (!(cause instanceof ApiProblem)) throw cause
    errors.value = cause.fields
    if (!cause.fields.length) gone.value = cause.message
  } finally {
    busy.value = false
  }
}

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
  <main class="page">
    <StateNotice v-if="gone" tone="error" :title="text.people.joinFailed" :detail="gone">
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
      <v-btn type="submit" color="primary" variant="flat" :loading="busy" data-test="join">
        {{ text.people.join }}
      </v-btn>
    </form>
  </main>
</template>

<style scoped>
.page {
  max-width: 460px;
  margin: 9vh auto 40px;
  padding: 0 20px;
}
.form {
  display: grid;
  gap: 14px;
  justify-items: start;
}
.form > :deep(.v-input) {
  width: 100%;
}
</style>
