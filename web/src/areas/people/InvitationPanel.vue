<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { ref } from 'vue'

import { ApiProblem, api, data } from '@/shared/api/client'
import { queryClient } from '@/shared/api/queries'
import type { InvitationView, Role } from '@/shared/api/types'
import { day, moment } from '@/shared/format'
import { text } from '@/shared/text'
import SecretLink from './SecretLink.vue'

/** Invites by a link, which is shown once; open invitations can be taken back. */
const role = ref<Role>('author')
const note = ref('')
const mailTo = ref('')
const mailFault = ref('')
const mail = useQuery({ queryKey: ['mail'], queryFn: async () => data(await api.GET('/api/v1/mail')) })
const made = ref<InvitationView | null>(null)
const failure = ref('')
const roles = Object.entries(text.roles).map(([value, title]) => ({ value: value as Role, title }))
const open = useQuery({
  queryKey: ['invitations'],
  queryFn: async () => data(await api.GET('/api/v1/invitations')),
})
async function again() {
  await queryClient.invalidateQueries({ queryKey: ['invitations'] })
  await queryClient.invalidateQueries({ queryKey: ['mail'] })
}

async function attempt(action: () => Promise<void>) {
  failure.value = ''
  mailFault.value = ''
  try {
    await action()
  } catch (cause) {
    if (!(cause instanceof ApiProblem)) throw cause
    mailFault.value = cause.fields.map((error) => `${error.message} ${error.remedy}`).join(' ')
    failure.value = mailFault.value ? '' : cause.message
  }
  await again()
}
const invite = () =>
  attempt(async () => {
    const body = { role: role.value, note: note.value, mail_to: mailTo.value }
    made.value = data(await api.POST('/api/v1/invitations', { body }))
    note.value = ''
    mailTo.value = ''
  })
const takeBack = (invitation: InvitationView) =>
  attempt(async () => {
    await api.DELETE('/api/v1/invitations/{id}', { params: { path: { id: invitation.id } } })
    if (made.value?.id === invitation.id) made.value = null
  })
</script>

<template>
  <section>
    <h2>{{ text.people.inviteTitle }}</h2>
    <p class="small muted">{{ text.people.inviteDetail }}</p>
    <form class="invite" @submit.prevent="invite">
      <v-select v-model="role" :items="roles" :label="text.people.role" data-test="invite-role" />
      <v-text-field v-model="note" :label="text.people.note" data-test="invite-note" />
      <v-text-field
        v-model="mailTo"
        type="email"
        :label="text.people.mailTo"
        :error-messages="mailFault"
        data-test="invite-mail"
      />
      <v-btn type="submit" color="primary" variant="flat" data-test="invite">{{ text.people.invite }}</v-btn>
    </form>
    <p v-if="failure" role="alert" class="failure">{{ failure }}</p>
    <SecretLink v-if="made?.path" :path="made.path" :about="text.people.linkOnce" test="invitation-link" />
    <template v-if="open.data.value?.length">
      <h3>{{ text.people.openTitle }}</h3>
      <ul class="open">
        <li v-for="invitation in open.data.value" :key="invitation.id">
          <span class="wrap-anywhere">
            {{ text.roles[invitation.role]
            }}<template v-if="invitation.note"> · {{ invitation.note }}</template>
            <span class="small muted"> · {{ text.people.until(day(invitation.expires_at)) }}</span>
          </span>
          <v-btn @click="takeBack(invitation)">{{ text.people.takeBack }}</v-btn>
        </li>
      </ul>
    </template>
    <template v-if="mail.data.value?.length">
      <h3>{{ text.people.mailTitle }}</h3>
      <p class="small muted">{{ text.people.mailAbout }}</p>
      <details v-for="one in mail.data.value" :key="one.at + one.to" data-test="mail">
        <summary>{{ one.subject }} · {{ text.people.mailTo1(one.to, moment(one.at)) }}</summary>
        <p class="pre-line wrap-anywhere small">{{ one.text }}</p>
      </details>
    </template>
  </section>
</template>

<style scoped>
.invite {
  display: grid;
  grid-template-columns: 190px minmax(0, 1fr) minmax(0, 1fr) auto;
  gap: 12px;
  align-items: start;
  max-width: 860px;
  margin: 12px 0;
}
.open {
  max-width: 720px;
  margin-top: 6px;
  padding: 0;
  list-style: none;
}
.open li {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 14px;
  padding: 7px 0;
  border-bottom: 1px solid var(--line);
}
@media (max-width: 700px) {
  .invite {
    grid-template-columns: 1fr;
  }
}
h3 {
  margin-top: 18px;
}
</style>
