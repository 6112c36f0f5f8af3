<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { ref } from 'vue'

import { ApiProblem, api, data } from '@/shared/api/client'
import type { IntervalChoice, Settings } from '@/shared/api/types'
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

const intervals = (Object.keys(text.pooled.intervals) as IntervalChoice[]).map((value) => ({
  value,
  title: text.pooled.intervals[value],
}))

async function put(change: Partial<Settings>) {
  const { version, ...now } = settings.data.value!
  const params = { header: { 'If-Match': `"${version}"` } }
  const saved = data(await api.PUT('/api/v1/settings', { params, body: { ...now, ...change } }))
  queryClient.setQueryData(['settings'], saved)
}

async function change<Name extends keyof Settings>(name: Name, to: Settings[Name] | null) {
  const before = settings.data.value?.[name]
  if (!to || !before || to === before) return
  saving.value = true
  try {
    await put({ [name]: to })
    undoBar.offer(words.changed, () => put({ [name]: before }))
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
        @update:model-value="change('learners_see', $event)"
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
      <v-select
        :key="`intervals-${round}`"
        class="intervals"
        :model-value="settings.data.value?.interval"
        :items="intervals"
        :label="words.intervals"
        :disabled="saving"
        hide-details
        data-test="setting-interval"
        @update:model-value="change('interval', $event)"
      />
      <p class="small muted">{{ words.aboutIntervals }}</p>
      <fieldset class="roles">
        <legend>{{ text.secondStep.requiredFor }}</legend>
        <v-checkbox
          v-for="(name, role) in text.roles"
          :key="`${role}-${round}`"
          :model-value="settings.data.value?.second_step"
          :value="role"
          :label="name"
          :disabled="saving"
          density="compact"
          hide-details
          :data-test="`second-step-${role}`"
          @update:model-value="change('second_step', $event)"
        />
      </fieldset>
      <p class="small muted">{{ text.secondStep.aboutRequired }}</p>
    </template>
  </section>
</template>

<style scoped>
.settings {
  max-width: 720px;
  margin: 10px 0 30px;
}
.intervals {
  max-width: 480px;
  margin: 18px 0 8px;
}
.roles {
  display: flex;
  flex-wrap: wrap;
  gap: 0 18px;
  margin: 18px 0 0;
  padding: 0;
  border: 0;
}
/* In line with the text above and below. */
.settings :deep(.v-radio-group > .v-input__control > *) {
  margin-inline-start: 0;
  padding-inline-start: 0;
  white-space: normal;
}
</style>
