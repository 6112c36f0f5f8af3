<script setup lang="ts">
import CautionLine from '@/shared/layout/CautionLine.vue'
import { text } from '@/shared/text'
import SignInForm from './SignInForm.vue'

document.title = `${text.people.signIn} – Pruvex`
</script>

<template>
  <main class="page">
    <h1>pruvex</h1>
    <p class="muted lead">{{ text.people.about }}</p>
    <SignInForm />
    <p class="small muted">{{ text.people.noAccount }} {{ text.people.forgotten }}</p>
    <CautionLine />
  </main>
</template>

<style scoped>
.page {
  display: grid;
  gap: 14px;
  max-width: 460px;
  margin: 9vh auto 40px;
  padding: 0 20px;
}
.lead {
  margin-bottom: 8px;
}
</style>
