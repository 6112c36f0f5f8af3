<script setup lang="ts">
import { loadSession, signOut } from '@/shared/session/session'
import { text } from '@/shared/text'
import SecondStepForm from './SecondStepForm.vue'

/** In a role that requires two-step sign-in, before anything else. What was typed on the page below stays. */
</script>

<template>
  <v-dialog :model-value="true" persistent max-width="500" aria-labelledby="missing-title">
    <v-card class="padded" data-test="second-step-missing">
      <h2 id="missing-title">{{ text.secondStep.missingTitle }}</h2>
      <p class="muted">{{ text.secondStep.missing }}</p>
      <SecondStepForm @done="loadSession()">
        <v-btn @click="signOut()">{{ text.people.signOut }}</v-btn>
      </SecondStepForm>
    </v-card>
  </v-dialog>
</template>
