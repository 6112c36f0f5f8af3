<script setup lang="ts">
import { mdiContentCopy, mdiDeleteOutline, mdiPencilOutline } from '@mdi/js'

import type { ReferenceView } from '@/shared/api/types'
import IconButton from '@/shared/layout/IconButton.vue'
import SampleMark from '@/shared/layout/SampleMark.vue'
import { may } from '@/shared/session/session'
import { text } from '@/shared/text'
import { undoBar } from '@/shared/undo'
import ReportedTests from './ReportedTests.vue'
import { removeReference } from './referenceActions'

/** One work of the list, with what can be done with it. */
defineProps<{ reference: ReferenceView }>()
const emit = defineEmits<{ edit: [] }>()

async function copy(reference: ReferenceView) {
  try {
    await navigator.clipboard.writeText(reference.citation)
    undoBar.offer(text.references.copied)
  } catch {
    undoBar.offer(text.references.notCopied)
  }
}
</script>

<template>
  <li>
    <div class="wrap-anywhere" dir="auto">
      <strong>{{ reference.label }}</strong> <SampleMark v-if="reference.sample" />
      <p>{{ reference.citation }}</p>
      <ReportedTests v-if="reference.studies" :reference="reference" />
    </div>
    <div class="tools no-print">
      <IconButton
        :icon="mdiContentCopy"
        :label="text.references.copy(reference.label)"
        @click="copy(reference)"
      />
      <template v-if="may('write_studies')">
        <IconButton
          :icon="mdiPencilOutline"
          :label="text.references.edit(reference.label)"
          data-test="edit-reference"
          @click="emit('edit')"
        />
        <IconButton
          :icon="mdiDeleteOutline"
          :label="text.references.remove(reference.label)"
          data-test="remove-reference"
          @click="removeReference(reference)"
        />
      </template>
    </div>
  </li>
</template>

<style scoped>
li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 12px;
  padding: 9px 6px;
  border-bottom: 1px solid var(--line);
}
li p {
  max-width: 100ch;
}
.tools {
  display: flex;
  gap: 4px;
  align-items: start;
}
</style>
