<script setup lang="ts">
import PartNav from '@/shared/layout/PartNav.vue'
import { may } from '@/shared/session/session'
import { text } from '@/shared/text'
</script>

<template>
  <!-- The parts of the evidence are for those who enter it. -->
  <PartNav v-if="may('write_studies')" :label="text.layout.evidence" :parts="text.layout.evidenceParts" />
</template>
