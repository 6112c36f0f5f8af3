<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, watchEffect } from 'vue'

import ChangeList from '@/areas/review/ChangeList.vue'
import { useRestoring } from '@/areas/review/useRestoring'
import { api, data } from '@/shared/api/client'
import { usePlan, useTests } from '@/shared/api/queries'
import { useQuestion } from '@/shared/question/useQuestion'
import { may } from '@/shared/session/session'
import { text } from '@/shared/text'

/** Every version of a plan; an earlier one can be brought back as a draft. */
const props = defineProps<{ plan: string }>()

const { carried } = useQuestion()
const stored = usePlan(() => props.plan)
const changes = useQuery({
  queryKey: ['plan-history', computed(() => props.plan)],
  queryFn: async () =>
    data(await api.GET('/api/v1/plans/{id}/history', { params: { path: { id: props.plan } } })),
})
const list = useTests(() => ({
  region: stored.data.value?.region ?? 'hand_wrist',
  search: '',
  sort: 'name' as const,
  reverse: false,
  limit: 500,
}))
const names = computed(
  () =>
    new Map(
      [...(list.data.value?.rows ?? []), ...(stored.data.value?.named_tests ?? [])].map((it) => [
        it.id,
        it.name,
      ]),
    ),
)
const { busy, failure, restore } = useRestoring()
const title = computed(() => text.plan.history(stored.data.value?.title ?? ''))
watchEffect(() => (document.title = `${title.value} – Pruvex`))
</script>

<template>
  <div>
    <nav class="small" :aria-label="text.layout.back">
      <router-link :to="{ name: 'plan', params: { plan }, query: carried }"
        >← {{ stored.data.value?.title ?? text.plan.back }}</router-link
      >
    </nav>
    <h1 dir="auto">{{ title }}</h1>
    <p v-if="failure" role="alert" class="failure">{{ failure }}</p>
    <ChangeList
      heading="h2"
      :names="names"
      :query="changes"
      :editable="may('write_sheets')"
      :busy="busy"
      @restore="restore"
    />
  </div>
</template>
