<script setup lang="ts">
import { ref } from 'vue'

import { ApiProblem } from '@/shared/api/client'
import type { Role } from '@/shared/api/types'
import { enterDemo, session, signIn } from '@/shared/session/session'
import { text } from '@/shared/text'
import CodeField from './CodeField.vue'

/** Name and password; in the demonstration also a door for each role. */
const props = defineProps<{ login?: string }>()

const login = ref(props.login ?? '')
const password = ref('')
/** Asked for once the password was right, of those who sign in with a second step. */
const code = ref<string | null>(null)
const failure = ref('')
const busy = ref(false)
const roles = Object.keys(text.roles) as Role[]

async function attempt(enter: () => Promise<void>) {
  busy.value = true
  failure.value = ''
  try {
    await enter()
  } catch (cause) {
    if (!(cause instanceof ApiProblem)) throw cause
    if (cause.code === 'code_needed' || cause.code === 'code_wrong') code.value = ''
    // The field says itself what it asks for.
    failure.value = cause.code === 'code_needed' ? '' : cause.message
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <form class="form" @submit.prevent="attempt(() => signIn(login, password, code ?? ''))">
    <v-text-field
      v-model="login"
      :label="text.people.login"
      autocomplete="username"
      autocapitalize="none"
      data-test="login"
      autofocus
    />
    <v-text-field
      v-model="password"
      :label="text.people.password"
      type="password"
      autocomplete="current-password"
      data-test="password"
    />
    <CodeField v-if="code !== null" v-model="code" />
    <p v-if="failure" role="alert" class="failure" data-test="sign-in-failure">{{ failure }}</p>
    <v-btn type="submit" color="primary" variant="flat" :loading="busy" data-test="sign-in">
      {{ text.people.signIn }}
    </v-btn>
    <section v-if="session.demo" class="demo">
      <h2>{{ text.people.demoTitle }}</h2>
      <p class="small muted">{{ text.people.demoDetail }}</p>
      <div class="doors">
        <v-btn
          v-for="role in roles"
          :key="role"
          :disabled="busy"
          :data-test="`enter-${role}`"
          @click="attempt(() => enterDemo(role))"
        >
          {{ text.people.enterAs(text.roles[role]) }}
        </v-btn>
      </div>
    </section>
  </form>
</template>

<style scoped>
.demo {
  width: 100%;
  margin-top: 12px;
  padding-top: 16px;
  border-top: 1px solid var(--line);
}
.doors {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  margin-top: 10px;
}
</style>
