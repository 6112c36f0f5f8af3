<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'

import { provideQuestion } from '@/shared/question/useQuestion'
import QuestionStrip from '@/shared/question/QuestionStrip.vue'
import { may } from '@/shared/session/session'
import { text } from '@/shared/text'
import BodyRail from './BodyRail.vue'
import OutageBanner from './OutageBanner.vue'
import PathNav from './PathNav.vue'
import StateNotice from './StateNotice.vue'

/** What stands around every page for those who are signed in. */
const route = useRoute()
const allowed = computed(() => !route.meta.right || may(route.meta.right))
provideQuestion()
</script>

<template>
  <QuestionStrip />
  <OutageBanner />
  <div class="frame">
    <BodyRail />
    <main id="content" class="content" tabindex="-1">
      <slot />
      <PathNav />
      <!-- Another sheet is another page, also when the same component shows it. -->
      <router-view v-if="allowed" :key="route.path" />
      <StateNotice v-else :title="text.people.notAllowed" :detail="text.people.notAllowedDetail">
        <v-btn :to="{ name: 'catalogue' }">{{ text.layout.toCatalogue }}</v-btn>
      </StateNotice>
    </main>
  </div>
</template>

<style scoped>
.frame {
  display: grid;
  grid-template-columns: 128px minmax(0, 1fr);
  min-height: calc(100vh - 57px);
}
.content {
  padding: 20px 28px 40px;
  max-width: 1320px;
  width: 100%;
  outline: none;
}
@media (max-width: 900px) {
  .frame {
    grid-template-columns: minmax(0, 1fr);
    grid-template-rows: auto 1fr;
  }
  .content {
    padding: 14px 16px 32px;
  }
}
</style>
