<script setup lang="ts">
import { shortcutSheet } from '@/shared/shortcutSheet'
import { text } from '@/shared/text'
import { useOnceOpened } from '@/shared/useOnceOpened'
import { useShortcuts } from '@/shared/useShortcuts'

const asked = useOnceOpened(() => shortcutSheet.open)
useShortcuts({ '?': () => (shortcutSheet.open = true) })
</script>

<template>
  <v-dialog v-if="asked" v-model="shortcutSheet.open" max-width="460" aria-labelledby="shortcut-title">
    <v-card class="padded">
      <h2 id="shortcut-title">{{ text.shortcuts.title }}</h2>
      <dl>
        <template v-for="[key, what] in text.shortcuts.list" :key="key">
          <dt>
            <kbd>{{ key }}</kbd>
          </dt>
          <dd>{{ what }}</dd>
        </template>
      </dl>
      <v-btn autofocus @click="shortcutSheet.open = false">{{ text.layout.close }}</v-btn>
    </v-card>
  </v-dialog>
</template>

<style scoped>
dl {
  display: grid;
  grid-template-columns: 80px 1fr;
  gap: 8px 12px;
  margin: 14px 0 18px;
}
kbd {
  padding: 1px 7px;
  border: 1px solid var(--line);
  border-radius: 4px;
  background: rgb(var(--v-theme-background));
  color: inherit;
}
</style>
