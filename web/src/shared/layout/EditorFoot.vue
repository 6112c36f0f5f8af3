<script setup lang="ts">
import { mdiRedo, mdiUndo } from '@mdi/js'
import type { Ref } from 'vue'

import { moment } from '@/shared/format'
import { text } from '@/shared/text'

/** Saving and why it was refused, undoing, and whether what is typed is kept. Always in view. */
const props = defineProps<{
  editing: {
    saving: Ref<boolean>
    failure: Ref<string>
    undo: () => void
    redo: () => void
    canUndo: Ref<boolean>
    canRedo: Ref<boolean>
    pending: Ref<boolean>
    keptAt: Ref<string>
  }
}>()

const { saving, failure, undo, redo, canUndo, canRedo, pending, keptAt } = props.editing
</script>

<template>
  <div class="foot">
    <p v-if="failure" class="failure" role="alert" data-test="form-failure">{{ failure }}</p>
    <v-btn type="submit" variant="flat" color="primary" :loading="saving" data-test="save-sheet">
      {{ text.editor.save }}
    </v-btn>
    <v-btn
      :icon="mdiUndo"
      size="small"
      variant="text"
      :disabled="!canUndo"
      :aria-label="text.editor.undo"
      :title="`${text.editor.undo} (Ctrl+Z)`"
      data-test="undo-typing"
      @click="undo()"
    />
    <v-btn
      :icon="mdiRedo"
      size="small"
      variant="text"
      :disabled="!canRedo"
      :aria-label="text.editor.redo"
      :title="`${text.editor.redo} (Ctrl+Shift+Z)`"
      @click="redo()"
    />
    <span class="small muted kept" aria-live="polite" data-test="kept">
      {{ pending ? text.editor.notKept : keptAt ? text.editor.keptAt(moment(keptAt)) : '' }}
    </span>
    <slot />
  </div>
</template>

<style scoped>
.foot {
  position: sticky;
  z-index: 2;
  bottom: 0;
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
  padding: 10px 0;
  background: rgb(var(--v-theme-background));
  border-top: 1px solid var(--line);
}
.failure {
  width: 100%;
}
.kept {
  flex: 1;
}
</style>
