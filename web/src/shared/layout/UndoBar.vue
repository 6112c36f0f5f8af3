<script setup lang="ts">
import { text } from '@/shared/text'
import { undoBar } from '@/shared/undo'
import { useOnceOpened } from '@/shared/useOnceOpened'

const asked = useOnceOpened(() => undoBar.open)

async function undo() {
  const action = undoBar.action
  undoBar.open = false
  try {
    await action?.()
    undoBar.offer(text.layout.undone)
  } catch (cause) {
    undoBar.offer(cause instanceof Error ? cause.message : String(cause))
  }
}
</script>

<template>
  <v-snackbar
    v-if="asked"
    v-model="undoBar.open"
    :timeout="undoBar.action ? 15000 : 5000"
    location="bottom left"
  >
    <span class="wrap-anywhere message">{{ undoBar.message }}</span>
    <template #actions>
      <v-btn v-if="undoBar.action" variant="text" data-test="undo" @click="undo">{{
        text.layout.undo
      }}</v-btn>
      <v-btn variant="text" @click="undoBar.open = false">{{ text.layout.close }}</v-btn>
    </template>
  </v-snackbar>
</template>

<style scoped>
.message {
  display: -webkit-box;
  overflow: hidden;
  -webkit-box-orient: vertical;
  -webkit-line-clamp: 3;
}
</style>
