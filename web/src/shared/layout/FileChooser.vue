<script setup lang="ts">
import { mdiTrayArrowUp } from '@mdi/js'
import { ref } from 'vue'

import { text } from '@/shared/text'

/** A file that is to be brought in: its name, and a button for another one. */
defineProps<{ accept: string; name?: string; title?: string; disabled?: boolean; test: string }>()
const emit = defineEmits<{ chosen: [file: File] }>()

const chooser = ref<HTMLInputElement | null>(null)
function chosen(event: Event) {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  // So that the same file, once it is corrected, can be chosen again.
  input.value = ''
  if (file) emit('chosen', file)
}
</script>

<template>
  <input
    ref="chooser"
    type="file"
    :accept="accept"
    class="visually-hidden"
    tabindex="-1"
    :aria-label="title ?? text.exchange.choose"
    :data-test="test"
    @change="chosen"
  />
  <div class="buttons">
    <v-btn
      :prepend-icon="mdiTrayArrowUp"
      :disabled="disabled"
      :data-test="`choose-${test}`"
      @click="chooser?.click()"
    >
      {{ name ? text.exchange.other : (title ?? text.exchange.choose) }}
    </v-btn>
    <span v-if="name" class="muted wrap-anywhere">{{ name }}</span>
    <slot v-else />
  </div>
</template>
