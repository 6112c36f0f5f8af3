<script setup lang="ts">
import { useRouter } from 'vue-router'
import { watchEffect } from 'vue'

import { text } from '@/shared/text'
import GuideReader from './GuideReader.vue'

/** The guide as a page of its own, with an address for each of its pages. */
const props = withDefaults(defineProps<{ page?: string }>(), { page: 'start' })
const router = useRouter()
watchEffect(() => (document.title = `${text.guide.pages[props.page] ?? text.guide.title} – Pruvex`))
</script>

<template>
  <GuideReader :page="page" @go="router.push($event)" />
</template>
