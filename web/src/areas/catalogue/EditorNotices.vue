<script setup lang="ts">
import { moment } from '@/shared/format'
import { text } from '@/shared/text'
import SheetConflict from './SheetConflict.vue'
import type { SheetEditing } from './useSheetEditing'

/** What must be said above the fields: what was taken up again, and what collides with another's text. */
const props = defineProps<{ editing: SheetEditing; anew: string }>()

const { resumed, beginAnew, theirs, base, draft, settled } = props.editing
</script>

<template>
  <p v-if="resumed" class="resumed small" data-test="resumed">
    {{ text.editor.goOn(moment(resumed)) }}
    <v-btn size="small" data-test="begin-anew" @click="beginAnew">{{ anew }}</v-btn>
  </p>
  <SheetConflict v-if="theirs" :base="base" :mine="draft" :theirs="theirs" @settled="settled" />
</template>

<style scoped>
.resumed {
  margin-bottom: 10px;
  padding: 8px 12px;
  background: rgba(var(--v-theme-primary), 0.07);
  border-radius: 6px;
}
</style>
