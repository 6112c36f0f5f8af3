<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { watchEffect } from 'vue'

import ChangeList from '@/areas/review/ChangeList.vue'
import { useRestoring } from '@/areas/review/useRestoring'
import { api, data } from '@/shared/api/client'
import { useQuestion } from '@/shared/question/useQuestion'
import { may } from '@/shared/session/session'
import { text } from '@/shared/text'

/** What people changed in structures and conditions. */
const { carried } = useQuestion()
const changes = useQuery({
  queryKey: ['vocabulary-history'],
  queryFn: async () => data(await api.GET('/api/v1/vocabulary/history')),
})
const { busy, failure, restore } = useRestoring()
watchEffect(() => (document.title = `${text.vocabulary.history} – Pruvex`))
</script>

<template>
  <div>
    <nav class="small" :aria-label="text.layout.back">
      <router-link :to="{ name: 'structures', query: carried }">← {{ text.vocabulary.title }}</router-link>
    </nav>
    <h1>{{ text.vocabulary.history }}</h1>
    <p class="muted">{{ text.vocabulary.historyAbout }}</p>
    <p v-if="failure" role="alert" class="failure">{{ failure }}</p>
    <ChangeList
      heading="h2"
      :query="changes"
      :editable="may('write_sheets')"
      :busy="busy"
      @restore="restore"
    />
  </div>
</template>

<style scoped>
.muted {
  margin-bottom: 14px;
}
</style>
