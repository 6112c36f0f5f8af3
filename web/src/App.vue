<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'

import SignInAgain from '@/areas/people/SignInAgain.vue'
import SignInPage from '@/areas/people/SignInPage.vue'
import BodyRail from '@/shared/layout/BodyRail.vue'
import OutageBanner from '@/shared/layout/OutageBanner.vue'
import PathNav from '@/shared/layout/PathNav.vue'
import ShortcutSheet from '@/shared/layout/ShortcutSheet.vue'
import StateNotice from '@/shared/layout/StateNotice.vue'
import UndoBar from '@/shared/layout/UndoBar.vue'
import QuestionStrip from '@/shared/question/QuestionStrip.vue'
import { outage } from '@/shared/outage'
import { loadSession, may, session } from '@/shared/session/session'
import { text } from '@/shared/text'

const route = useRoute()
const alone = computed(() => route.meta.alone === true)
const allowed = computed(() => !route.meta.right || may(route.meta.right))
const load = () => loadSession().catch(() => setTimeout(load, 2000))
void load()
</script>

<template>
  <v-app>
    <a class="skip-link" href="#content">{{ text.layout.skip }}</a>
    <OutageBanner v-if="outage.cause && !session.account" />
    <router-view v-if="alone" />
    <v-progress-linear v-else-if="!session.known" indeterminate height="2" color="primary" />
    <SignInPage v-else-if="!session.account" />
    <template v-else>
      <QuestionStrip />
      <OutageBanner />
      <div class="frame">
        <BodyRail />
        <main id="content" class="content" tabindex="-1">
          <PathNav />
          <!-- Another sheet is another page, also when the same component shows it. -->
          <router-view v-if="allowed" :key="route.path" />
          <StateNotice v-else :title="text.people.notAllowed" :detail="text.people.notAllowedDetail">
            <v-btn :to="{ name: 'catalogue' }">{{ text.layout.toCatalogue }}</v-btn>
          </StateNotice>
        </main>
      </div>
    </template>
    <SignInAgain />
    <UndoBar />
    <ShortcutSheet />
  </v-app>
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
.skip-link {
  position: absolute;
  left: -9999px;
}
.skip-link:focus {
  left: 12px;
  top: 8px;
  z-index: 30;
  padding: 6px 12px;
  background: rgb(var(--v-theme-surface));
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
