<script setup lang="ts">
import { ref, watch } from 'vue'

import { api, data } from '@/shared/api/client'
import { loadSession, session } from '@/shared/session/session'
import { text } from '@/shared/text'
import { undoBar } from '@/shared/undo'
import { useSaving } from '@/shared/useSaving'

/** How one is called and reached; what one wrote bears the new name from then on. */
const open = defineModel<boolean>('open', { required: true })
const draft = ref({ name: '', login: '', mail: '' })
const { failure, saving, begin, of, save } = useSaving(text.people.profileMeanwhile)
watch(
  open,
  () => {
    const { name = '', login = '', mail = '', version } = session.account ?? {}
    draft.value = { name, login, mail }
    begin(version)
  },
  { immediate: true },
)
async function submit() {
  const body = { ...draft.value }
  const saved = await save(async (header) =>
    data(await api.PUT('/api/v1/session/account', { params: { header }, body })),
  )
  if (!saved) return
  await loadSession()
  open.value = false
  undoBar.offer(text.people.profileChanged)
}
</script>

<template>
  <v-dialog v-model="open" max-width="460" aria-labelledby="profile-title">
    <v-card class="padded">
      <form class="form" novalidate @submit.prevent="submit">
        <h2 id="profile-title">{{ text.people.profile }}</h2>
        <p v-if="failure" role="alert" class="failure">{{ failure }}</p>
        <v-text-field
          v-model="draft.name"
          :label="text.people.name"
          :error-messages="of('name')"
          autocomplete="name"
          data-test="profile-name"
          autofocus
        />
        <v-text-field
          v-model="draft.login"
          :label="text.people.login"
          :hint="text.people.loginHint"
          :error-messages="of('login')"
          autocomplete="username"
          autocapitalize="none"
          data-test="profile-login"
        />
        <v-text-field
          v-model="draft.mail"
          :label="text.people.mail"
          :hint="text.people.mailHint"
          :error-messages="of('mail')"
          type="email"
          persistent-hint
          autocomplete="email"
          data-test="profile-mail"
        />
        <div class="foot">
          <v-btn type="submit" color="primary" variant="flat" :loading="saving" data-test="save-profile">{{
            text.people.save
          }}</v-btn>
          <v-btn @click="open = false">{{ text.people.cancel }}</v-btn>
        </div>
      </form>
    </v-card>
  </v-dialog>
</template>
