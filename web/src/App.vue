<script setup lang="ts">
import BodyRail from '@/shared/layout/BodyRail.vue'
import OutageBanner from '@/shared/layout/OutageBanner.vue'
import ShortcutSheet from '@/shared/layout/ShortcutSheet.vue'
import UndoBar from '@/shared/layout/UndoBar.vue'
import QuestionStrip from '@/shared/question/QuestionStrip.vue'
import { text } from '@/shared/text'
</script>

<template>
  <v-app>
    <a class="skip-link" href="#content">{{ text.layout.skip }}</a>
    <QuestionStrip />
    <OutageBanner />
    <div class="frame">
      <BodyRail />
      <main id="content" class="content" tabindex="-1">
        <router-view />
      </main>
    </div>
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
