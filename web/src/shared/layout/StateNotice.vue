<script setup lang="ts">
/** An empty, failed or missing state, said in words with what to do next in the slot. */
defineProps<{ title: string; detail?: string; tone?: 'calm' | 'error' }>()
</script>

<template>
  <section class="notice" :class="tone" :role="tone === 'error' ? 'alert' : undefined">
    <h2>{{ title }}</h2>
    <p v-if="detail" class="wrap-anywhere">{{ detail }}</p>
    <div class="actions"><slot /></div>
  </section>
</template>

<style scoped>
.notice {
  padding: 28px 24px;
  border: 1px dashed var(--line);
  border-radius: 8px;
  max-width: 720px;
}
.notice.error {
  border: 1px solid rgb(var(--v-theme-error));
}
.actions {
  display: flex;
  gap: 10px;
  margin-top: 14px;
}
.actions:empty {
  display: none;
}
</style>
