<script setup lang="ts">
import { session } from '@/shared/session/session'
import { text } from '@/shared/text'
import { useOnceOpened } from '@/shared/useOnceOpened'
import SignInForm from './SignInForm.vue'

const asked = useOnceOpened(() => session.expired)
</script>

<template>
  <v-dialog
    v-if="asked"
    :model-value="session.expired"
    persistent
    max-width="460"
    aria-labelledby="again-title"
  >
    <v-card class="padded">
      <h2 id="again-title">{{ text.people.againTitle }}</h2>
      <p class="muted again">{{ text.people.againDetail }}</p>
      <SignInForm :login="session.account?.login" />
    </v-card>
  </v-dialog>
</template>

<style scoped>
.again {
  margin: 6px 0 14px;
}
</style>
