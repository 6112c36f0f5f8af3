<script setup lang="ts">
import { mdiPencilOutline } from '@mdi/js'

import IconButton from '@/shared/layout/IconButton.vue'
import { text } from '@/shared/text'
import type { PartKey } from './sheetFields'

/** A part of the page: read, with a pencil for those who write; or its form in the same place. */
defineProps<{ part: PartKey; title: string; editable?: boolean; open?: PartKey | null }>()
defineEmits<{ edit: [part: PartKey] }>()
</script>

<template>
  <section :class="['part', { opened: open === part }]">
    <slot v-if="open === part" name="form" />
    <template v-else>
      <IconButton
        v-if="editable"
        class="pencil no-print"
        :icon="mdiPencilOutline"
        :label="text.sheet.editPart(title)"
        :data-test="`edit-${part}`"
        @click="$emit('edit', part)"
      />
      <slot />
    </template>
  </section>
</template>

<style scoped>
.part {
  position: relative;
  margin-bottom: 18px;
}
.pencil {
  position: absolute;
  top: -3px;
  right: 0;
  color: var(--muted);
}
.opened {
  padding: 14px 16px 4px;
  border: 1px solid var(--line);
  border-radius: 8px;
}
</style>
