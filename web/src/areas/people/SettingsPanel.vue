<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { ref } from 'vue'

import { ApiProblem, api, data } from '@/shared/api/client'
import type { LearnersSee } from '@/shared/api/types'
import FailureNotice from '@/shared/layout/FailureNotice.vue'
import WaitLine from '@/shared/layout/WaitLine.vue'
import { text } from '@/shared/text'
import { undoBar } from '@/shared/undo'

/** What the administrator settles for everybody. */
const words = text.settings
const queryClient = useQueryClient()
const settings = useQuery({
  queryKey: ['settings'],
  queryFn: async () => data(await api.GET('/api/v1/settings')),
})
const saving = ref(false)
/** What was refused is shown as it was. */
const round = ref(0)

async function put(learners_see: LearnersSee) {
  const version = settings.data.value?.version ?? 0
  const params = { header: { 'If-Match': `"${version}"` } }
  const saved = data(await api.PUT('/api/v1/settings', { params, body: { learners_see } }))
  queryClient.setQueryData(['settings'], saved)
}

async function change(to: LearnersSee | null) {
  const before = settings.data.value?.learners_see
  if (!to || !before || to === before) return
  saving.value = true
  try {
    await put(to)
    undoBar.offer(words.changed, () => put(before))
  } catch (cause) {
    if (!(cause instanceof ApiProblem)) throw cause
    undoBar.offer(cause.message)
    await queryClient.invalidateQueries({ queryKey: ['settings'] })
    round.value += 1
  } finally {
    saving.value = false
  }
}
</script>

<template>
  <section class="settings">
    <h2>{{ words.title }}</h2>
    <FailureNotice v-if="settings.isError.value" :query="settings" :title="words.failed" />
    <WaitLine v-else-if="settings.isPending.value" />
    <template v-else>
      <v-radio-group
        :key="round"
        :model-value="settings.data.value?.learners_see"
        :label="words.learnersSee"
        :disabled="saving"
        hide-details
        data-test="learners-see"
        @update:model-value="change"
      >
        <v-radio
          v-for="(label, value) in words.choices"
          :key="value"
          :value="value"
          :label="label"
          :data-test="`learners-see-${value}`"
        />
      </v-radio-group>
      <p class="small muted">{{ words.about }}</p>
    </template>
  </section>
</template>

<style scoped>
.settings {
  max-width: 720px;
  margin: 10px 0 30px;
}
/* In line with the text above and below. */
.settings :deep(.v-radio-group > .v-input__control > *) {
  margin-inline-start: 0;
  padding-inline-start: 0;
  white-space: normal;
}
</style>
