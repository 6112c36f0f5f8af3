<script setup lang="ts">
import { computed } from 'vue'

import type { ImportView } from '@/shared/api/types'
import { whole } from '@/shared/format'
import { text } from '@/shared/text'

/** How far an import is, and a way to stop it. */
const props = defineProps<{ run: ImportView; leaving: string }>()
defineEmits<{ stop: [] }>()

const words = text.importRun
const progress = computed(() => {
  const { phase, done, of, preview } = props.run
  if (!phase) return words.waiting
  const doing = preview && phase === 'writing' ? words.trying : (words.phases[phase] ?? '')
  if (of) return words.progress(doing, whole(done), whole(of))
  return done ? words.so(doing, whole(done)) : doing
})
</script>

<template>
  <section class="running" data-test="import-progress">
    <progress v-if="run.of" :max="run.of" :value="run.done" :aria-label="progress" />
    <progress v-else :aria-label="progress" />
    <p role="status">{{ progress }}</p>
    <div class="buttons">
      <v-btn size="small" data-test="stop-import" @click="$emit('stop')">{{ words.stop }}</v-btn>
      <span class="small muted">{{ leaving }}</span>
    </div>
  </section>
</template>

<style scoped>
.running {
  margin-top: 20px;
}
.running progress {
  width: 100%;
  max-width: 480px;
  accent-color: rgb(var(--v-theme-primary));
}
</style>
