<script setup lang="ts">
import { computed, defineAsyncComponent, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import FirstVisit from '@/areas/guide/FirstVisit.vue'
import GuideDialog from '@/areas/guide/GuideDialog.vue'
import SignInAgain from '@/areas/people/SignInAgain.vue'
import SignInPage from '@/areas/people/SignInPage.vue'
import OutageBanner from '@/shared/layout/OutageBanner.vue'
import PageFrame from '@/shared/layout/PageFrame.vue'
import UndoBar from '@/shared/layout/UndoBar.vue'
import WaitLine from '@/shared/layout/WaitLine.vue'
import { outage } from '@/shared/outage'
import { loadSession, session } from '@/shared/session/session'
import { text } from '@/shared/text'

const route = useRoute()
const alone = computed(() => route.meta.alone === true)
const whole = computed(() => route.meta.whole === true)
/** Few meet it. */
const SecondStepMissing = defineAsyncComponent(() => import('@/areas/people/SecondStepMissing.vue'))
/** Some page was shown to this person: it stays, with what was typed, when two-step sign-in is asked for meanwhile. */
const begun = ref(false)
watch(
  () => [session.account?.id, session.secondStepMissing],
  ([id, missing], before) => (begun.value = !!id && (!missing || (begun.value && id === before[0]))),
)
const load = () => loadSession().catch(() => setTimeout(load, 2000))
void load()
// Frame and first page are drawn together, once.
const ready = ref(false)
void useRouter()
  .isReady()
  .finally(() => (ready.value = true))
</script>

<template>
  <v-app>
    <a class="skip-link" href="#content">{{ text.layout.skip }}</a>
    <OutageBanner v-if="outage.cause && (!session.account || whole)" />
    <router-view v-if="alone" />
    <WaitLine v-else-if="!session.known || !ready" />
    <SignInPage v-else-if="!session.account" />
    <router-view v-else-if="begun && whole" />
    <PageFrame v-else-if="begun">
      <FirstVisit v-if="session.demo" />
    </PageFrame>
    <SecondStepMissing v-if="!alone && session.account && session.secondStepMissing && !session.expired" />
    <SignInAgain />
    <UndoBar />
    <GuideDialog v-if="session.account && !alone" />
  </v-app>
</template>

<style scoped>
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
</style>
