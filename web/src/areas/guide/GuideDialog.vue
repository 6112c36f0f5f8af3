<script setup lang="ts">
import { mdiClose } from '@mdi/js'
import { defineAsyncComponent, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { guide } from '@/shared/guide'
import { text } from '@/shared/text'
import { useOnceOpened } from '@/shared/useOnceOpened'
import { useShortcuts } from '@/shared/useShortcuts'

/** The guide over the page that somebody is on, at the page of it that fits: what was typed below stays as it is. */
const GuideReader = defineAsyncComponent(() => import('./GuideReader.vue'))
const route = useRoute()
const router = useRouter()
const page = ref('start')
const asked = useOnceOpened(() => guide.open)
watch(
  () => guide.open,
  (open) => open && (page.value = route.meta.guide ?? 'start'),
  { flush: 'sync' },
)
function go(path: string) {
  const within = /^\/guide\/([\w-]+)$/.exec(path)
  if (within) return void (page.value = within[1]!)
  guide.open = false
  void router.push(path)
}
useShortcuts({ '?': () => (guide.open = true) })
</script>

<template>
  <v-dialog v-if="asked" v-model="guide.open" max-width="1020" :aria-label="text.guide.title">
    <v-card class="padded">
      <v-btn
        class="close"
        variant="text"
        size="small"
        :icon="mdiClose"
        :aria-label="text.layout.close"
        :title="text.layout.close"
        autofocus
        data-test="close-guide"
        @click="guide.open = false"
      />
      <GuideReader :page="page" @go="go" />
    </v-card>
  </v-dialog>
</template>

<style scoped>
.close {
  position: sticky;
  z-index: 1;
  top: 0;
  float: right;
  margin: -8px -8px 0 auto;
  background: rgb(var(--v-theme-surface));
}
</style>
