<script setup lang="ts">
import { moment } from '@/shared/format'
import { endElsewhere, session } from '@/shared/session/session'
import { text } from '@/shared/text'
import { undoBar } from '@/shared/undo'
import { useAttempt } from '@/shared/useAttempt'

/** The same account's other sessions, and a way to end them. */
const open = defineModel<boolean>('open', { required: true })
const { failure, busy, attempt } = useAttempt()

async function end() {
  await attempt(async () => {
    await endElsewhere()
    open.value = false
    undoBar.offer(text.people.endedElsewhere)
  })
}
</script>

<template>
  <v-dialog v-model="open" max-width="460" aria-labelledby="elsewhere-title">
    <v-card class="padded">
      <h2 id="elsewhere-title">{{ text.people.elsewhereTitle }}</h2>
      <p class="small muted">{{ text.people.elsewhereAbout }}</p>
      <table class="plain-table">
        <thead>
          <tr>
            <th scope="col">{{ text.people.lastUsed }}</th>
            <th scope="col">{{ text.people.began }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(place, index) in session.elsewhere" :key="index" data-test="elsewhere-row">
            <td>{{ moment(place.seen_at) }}</td>
            <td>{{ moment(place.began_at) }}</td>
          </tr>
        </tbody>
      </table>
      <p v-if="failure" role="alert" class="failure">{{ failure }}</p>
      <div class="actions">
        <v-btn color="primary" variant="flat" :loading="busy" data-test="end-elsewhere" @click="end">
          {{ text.people.endElsewhere }}
        </v-btn>
        <v-btn @click="open = false">{{ text.people.cancel }}</v-btn>
      </div>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.actions {
  display: flex;
  gap: 10px;
}
</style>
