<script setup lang="ts">
import { ref, watch } from 'vue'

import { ApiProblem, api } from '@/shared/api/client'
import { text } from '@/shared/text'
import { undoBar } from '@/shared/undo'

const open = defineModel<boolean>('open', { required: true })
const current = ref('')
const next = ref('')
const failure = ref('')
const busy = ref(false)
watch(open, () => (current.value = next.value = failure.value = ''))

async function save() {
  busy.value = true
  failure.value = ''
  try {
    await api.PUT('/api/v1/session/password', { body: { current: current.value, new: next.value } })
    open.value = false
    undoBar.offer(text.people.passwordChanged)
  } catch (cause) {
    if (!(cause instanceof ApiProblem)) throw cause
    failure.value = cause.fields.length
      ? cause.fields.map((error) => `${error.message} ${error.remedy}`).join(' ')
      : cause.message
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <v-dialog v-model="open" max-width="460" aria-labelledby="password-title">
    <v-card class="padded">
      <form class="form" @submit.prevent="save">
        <h2 id="password-title">{{ text.people.changePassword }}</h2>
        <v-text-field
          v-model="current"
          :label="text.people.currentPassword"
          type="password"
          autocomplete="current-password"
          autofocus
        />
        <v-text-field
          v-model="next"
          :label="text.people.newPassword"
          :hint="text.people.passwordHint"
          persistent-hint
          type="password"
          autocomplete="new-password"
        />
        <p class="small muted">{{ text.people.passwordEnds }}</p>
        <p v-if="failure" role="alert" class="failure">{{ failure }}</p>
        <div class="foot">
          <v-btn type="submit" color="primary" variant="flat" :loading="busy">{{ text.people.save }}</v-btn>
          <v-btn @click="open = false">{{ text.people.cancel }}</v-btn>
        </div>
      </form>
    </v-card>
  </v-dialog>
</template>
