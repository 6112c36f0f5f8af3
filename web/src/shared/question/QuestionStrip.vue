<script setup lang="ts">
import { mdiKeyboardOutline, mdiWeatherNight, mdiWhiteBalanceSunny } from '@mdi/js'
import { computed } from 'vue'
import { useTheme } from 'vuetify'

import AccountMenu from '@/areas/people/AccountMenu.vue'
import { percent } from '@/shared/format'
import type { Region } from '@/shared/api/types'
import { shortcutSheet } from '@/shared/shortcutSheet'
import { text } from '@/shared/text'
import { rememberTheme } from '@/shared/theme'
import PreTestInput from './PreTestInput.vue'
import { useQuestion } from './useQuestion'

const {
  region,
  condition,
  choices,
  preTest,
  usual,
  range,
  thresholds,
  carried,
  setRegion,
  setCondition,
  setPreTest,
} = useQuestion()
const theme = useTheme()
const isDark = computed(() => theme.global.current.value.dark)

const chosen = (event: Event) => (event.target as HTMLSelectElement).value
const origin = computed(() => {
  if (usual.value === null) return text.question.unknown
  if (Math.abs(usual.value - preTest.value) > 1e-9) return text.question.yours
  return text.question.usual(percent(usual.value), condition.value?.setting ?? '')
})

/** What else the question says: how sure the pre-test probability is, and from where on something is done. */
const more = computed(() =>
  [
    range.value && text.question.spread(percent(range.value[0]), percent(range.value[1])),
    thresholds.value && text.question.acts(percent(thresholds.value.reassure), percent(thresholds.value.act)),
  ]
    .filter(Boolean)
    .join('; '),
)

function toggleTheme() {
  const name = isDark.value ? 'light' : 'dark'
  theme.change(name)
  rememberTheme(name)
}
</script>

<template>
  <header class="strip" :aria-label="text.question.label">
    <router-link class="brand" :to="{ name: 'catalogue' }">pruvex</router-link>
    <div class="sentence">
      <span class="word">{{ text.question.in }}</span>
      <!-- The browser's own choosers: the framework's two would be a quarter of what a page's opening takes. -->
      <select
        class="chooser"
        :value="region"
        :aria-label="text.question.region"
        data-test="region"
        @change="setRegion(chosen($event) as Region)"
      >
        <option v-for="(title, name) in text.regions" :key="name" :value="name">{{ title }}</option>
      </select>
      <span class="word">{{ text.question.isIt }}</span>
      <select
        class="chooser condition"
        :value="condition?.name ?? ''"
        :disabled="!choices.length"
        :aria-label="text.question.condition"
        data-test="condition"
        @change="setCondition(chosen($event))"
      >
        <option v-if="!condition" value="" disabled>{{ text.question.noCondition }}</option>
        <option v-for="choice in choices" :key="choice.name">{{ choice.name }}</option>
      </select>
      <span class="word">?</span>
      <PreTestInput :model-value="preTest" :origin="origin" @update:model-value="setPreTest" />
      <router-link
        v-if="more"
        class="more small"
        :to="{ name: 'patient', query: carried }"
        data-test="question-more"
        >{{ more }}</router-link
      >
    </div>
    <div class="tools no-print">
      <v-btn
        variant="text"
        :icon="mdiKeyboardOutline"
        size="small"
        :aria-label="text.layout.help"
        :title="text.layout.help"
        @click="shortcutSheet.open = true"
      />
      <v-btn
        variant="text"
        :icon="isDark ? mdiWhiteBalanceSunny : mdiWeatherNight"
        size="small"
        :aria-label="text.layout.theme(isDark)"
        :title="text.layout.theme(isDark)"
        data-test="theme"
        @click="toggleTheme"
      />
      <AccountMenu />
    </div>
  </header>
</template>

<style scoped>
.strip {
  display: flex;
  align-items: center;
  gap: 16px;
  min-height: 56px;
  padding: 5px 18px;
  border-bottom: 1px solid var(--line);
  background: rgb(var(--v-theme-surface));
  position: sticky;
  top: 0;
  z-index: 10;
}
.brand {
  font-family: var(--font-heading);
  font-size: 1.35rem;
  font-weight: 700;
  text-decoration: none;
}
.sentence {
  flex: 1;
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 2px 9px;
  min-width: 0;
}
.word {
  color: var(--muted);
}
.chooser {
  flex: 0 1 auto;
  min-width: 0;
  padding: 4px 24px 4px 2px;
  border: 0;
  border-bottom: 1px solid var(--muted);
  border-radius: 0;
  appearance: none;
  background:
    linear-gradient(45deg, transparent 50%, currentColor 50%) right 9px center / 5px 5px no-repeat,
    linear-gradient(-45deg, transparent 50%, currentColor 50%) right 4px center / 5px 5px no-repeat;
  color: inherit;
  font: inherit;
  font-size: 0.94rem;
  font-weight: 600;
  text-overflow: ellipsis;
  cursor: pointer;
}
.chooser option {
  background: rgb(var(--v-theme-surface));
  font-weight: 400;
}
.chooser:hover:enabled {
  border-bottom-color: currentColor;
}
.chooser:disabled {
  opacity: 1;
  background: none;
  font-weight: 400;
  cursor: default;
}
.condition {
  max-width: 460px;
}
.more {
  color: var(--muted);
}
.tools {
  display: flex;
}
@media (max-width: 900px) {
  .strip {
    position: static;
    flex-wrap: wrap;
    gap: 4px 12px;
  }
  .sentence {
    order: 3;
    flex-basis: 100%;
  }
  .tools {
    margin-left: auto;
  }
}
@media print {
  .strip {
    position: static;
  }
}
</style>
