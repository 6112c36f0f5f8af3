<script setup lang="ts">
import { mdiMagnify } from '@mdi/js'
import { onBeforeUnmount, ref } from 'vue'

import { ApiProblem } from '@/shared/api/client'
import type { ReferenceInput } from '@/shared/api/types'
import WaitLine from '@/shared/layout/WaitLine.vue'
import { text } from '@/shared/text'
import { lookUp, referenceInput } from './referenceActions'

/** An identifier in, the work that it stands for out. */
const emit = defineEmits<{ found: [reference: ReferenceInput] }>()

const identifier = ref('')
const said = ref('')
const failed = ref(false)
let asking: AbortController | null = null
const busy = ref(false)

function cancel() {
  asking?.abort()
  asking = null
  busy.value = false
}
onBeforeUnmount(cancel)

async function ask() {
  cancel()
  const own = new AbortController()
  asking = own
  busy.value = true
  said.value = ''
  failed.value = false
  try {
    const found = await lookUp(identifier.value, own.signal)
    if (own.signal.aborted) return
    emit('found', referenceInput(found))
    said.value = text.references.found
  } catch (cause) {
    if (own.signal.aborted) return
    if (!(cause instanceof ApiProblem)) throw cause
    failed.value = true
    const [error] = cause.fields
    said.value = error ? `${error.message} ${error.remedy}` : cause.message
  } finally {
    if (asking === own) cancel()
  }
}
</script>

<template>
  <form class="look-up" novalidate @submit.prevent="ask">
    <v-text-field
      v-model="identifier"
      :label="text.references.identifier"
      :hint="text.references.identifierHint"
      persistent-hint
      autofocus
      autocomplete="off"
      data-test="identifier"
    />
    <v-btn v-if="busy" data-test="stop-looking" @click="cancel">{{ text.references.stop }}</v-btn>
    <v-btn v-else type="submit" :prepend-icon="mdiMagnify" :disabled="!identifier.trim()" data-test="look-up">
      {{ text.references.lookUp }}
    </v-btn>
    <WaitLine class="wide" :active="busy" />
    <p class="wide small" :class="{ failed }" aria-live="polite" data-test="looked-up">{{ said }}</p>
  </form>
</template>

<style scoped>
.look-up {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 6px 12px;
  align-items: start;
  margin-top: 12px;
}
.wide {
  grid-column: 1 / -1;
}
.failed {
  color: rgb(var(--v-theme-error));
  font-weight: 600;
}
</style>
