<script setup lang="ts">
import { mdiAccountCircleOutline } from '@mdi/js'
import { ref } from 'vue'

import { may, session, signOut } from '@/shared/session/session'
import { text } from '@/shared/text'
import { useOnceOpened } from '@/shared/useOnceOpened'
import ElsewhereDialog from './ElsewhereDialog.vue'
import PasswordDialog from './PasswordDialog.vue'

const password = ref(false)
const asked = useOnceOpened(() => password.value)
const elsewhere = ref(false)
const elsewhereAsked = useOnceOpened(() => elsewhere.value)
</script>

<template>
  <v-menu location="bottom end">
    <template #activator="{ props: activator }">
      <v-btn
        v-bind="activator"
        variant="text"
        :icon="mdiAccountCircleOutline"
        size="small"
        :aria-label="text.people.menu(session.account?.name ?? '')"
        :title="text.people.menu(session.account?.name ?? '')"
        data-test="account"
      />
    </template>
    <v-list density="compact" min-width="240">
      <v-list-item
        v-if="session.account"
        :title="session.account.name"
        :subtitle="text.roles[session.account.role]"
      />
      <v-divider />
      <v-list-item :to="{ name: 'structures' }" :title="text.vocabulary.title" data-test="structures" />
      <v-list-item
        v-if="may('read_drafts')"
        :to="{ name: 'exchange' }"
        :title="text.exchange.title"
        data-test="exchange"
      />
      <v-list-item
        v-if="may('manage_accounts')"
        :to="{ name: 'people' }"
        :title="text.people.title"
        data-test="people"
      />
      <v-list-item
        v-if="session.elsewhere.length"
        :title="text.people.elsewhere(session.elsewhere.length)"
        data-test="elsewhere"
        @click="elsewhere = true"
      />
      <v-list-item v-if="!session.demo" :title="text.people.changePassword" @click="password = true" />
      <v-list-item :title="text.people.signOut" data-test="sign-out" @click="signOut()" />
    </v-list>
  </v-menu>
  <PasswordDialog v-if="asked" v-model:open="password" />
  <ElsewhereDialog v-if="elsewhereAsked" v-model:open="elsewhere" />
</template>
