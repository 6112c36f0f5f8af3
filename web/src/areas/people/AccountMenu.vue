<script setup lang="ts">
import { mdiAccountCircleOutline, mdiMenu } from '@mdi/js'
import { computed, ref } from 'vue'

import { places } from '@/shared/layout/places'
import { useQuestion } from '@/shared/question/useQuestion'
import { session, signOut } from '@/shared/session/session'
import { text } from '@/shared/text'
import { useThemeSwitch } from '@/shared/theme'
import { useOnceOpened } from '@/shared/useOnceOpened'
import ElsewhereDialog from './ElsewhereDialog.vue'
import PasswordDialog from './PasswordDialog.vue'
import ProfileDialog from './ProfileDialog.vue'
import SecondStepDialog from './SecondStepDialog.vue'

/** On a phone it is the only menu, and holds what stands beside the path elsewhere. */
const { carried } = useQuestion()
const groups = computed(places)
const { dark, toggle } = useThemeSwitch()
/** A sample account, which everybody enters, is nobody's own. */
const own = computed(() => !session.demo || !session.account?.login.startsWith('sample-'))
const password = ref(false)
const asked = useOnceOpened(() => password.value)
const profile = ref(false)
const profileAsked = useOnceOpened(() => profile.value)
const secondStep = ref(false)
const secondStepAsked = useOnceOpened(() => secondStep.value)
const elsewhere = ref(false)
const elsewhereAsked = useOnceOpened(() => elsewhere.value)
</script>

<template>
  <v-menu location="bottom end">
    <template #activator="{ props: activator }">
      <v-btn
        v-bind="activator"
        variant="text"
        size="small"
        :aria-label="text.people.menu(session.account?.name ?? '')"
        :title="text.people.menu(session.account?.name ?? '')"
        data-test="account"
        icon
      >
        <v-icon class="wide-only" :icon="mdiAccountCircleOutline" />
        <v-icon class="phone-only" :icon="mdiMenu" />
      </v-btn>
    </template>
    <v-list density="compact" min-width="240">
      <v-list-item
        v-if="session.account"
        :title="session.account.name"
        :subtitle="text.roles[session.account.role]"
      />
      <v-divider />
      <template v-for="group in groups" :key="group.key">
        <v-list-subheader class="phone-only">{{ group.title }}</v-list-subheader>
        <v-list-item
          v-for="place in group.entries"
          :key="place.name"
          class="phone-only"
          :to="{ name: place.name, query: carried }"
          :title="place.title"
          :data-test="`menu-${place.name}`"
        />
        <v-divider class="phone-only" />
      </template>
      <v-list-item class="phone-only" :title="text.layout.theme(dark)" @click="toggle()" />
      <v-list-item
        v-if="session.elsewhere.length"
        :title="text.people.elsewhere(session.elsewhere.length)"
        data-test="elsewhere"
        @click="elsewhere = true"
      />
      <template v-if="own">
        <v-list-item :title="text.people.profile" data-test="profile" @click="profile = true" />
        <v-list-item :title="text.people.changePassword" @click="password = true" />
        <v-list-item :title="text.secondStep.title" data-test="second-step" @click="secondStep = true" />
      </template>
      <v-list-item :title="text.people.signOut" data-test="sign-out" @click="signOut()" />
    </v-list>
  </v-menu>
  <ProfileDialog v-if="profileAsked" v-model:open="profile" />
  <PasswordDialog v-if="asked" v-model:open="password" />
  <SecondStepDialog v-if="secondStepAsked" v-model:open="secondStep" />
  <ElsewhereDialog v-if="elsewhereAsked" v-model:open="elsewhere" />
</template>
