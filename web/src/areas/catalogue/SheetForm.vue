<script setup lang="ts">
import FormPart from './FormPart.vue'
import { sections } from './sheetFields'
</script>

<template>
  <section v-for="section in sections" :id="`part-${section.key}`" :key="section.key" class="part">
    <h2>{{ section.title }}</h2>
    <FormPart :part="section" />
  </section>
</template>

<style scoped>
.part {
  padding: 18px 0;
  border-top: 1px solid var(--line);
  scroll-margin-top: 60px;
}
.part:first-of-type {
  border-top: 0;
  padding-top: 6px;
}
h2 {
  margin-bottom: 12px;
}
</style>
