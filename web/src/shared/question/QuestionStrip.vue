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

const { region, condition, choices, preTest, usual, setRegion, setCondition, setPreTest } = useQuestion()
const theme = useTheme()
const isDark = computed(() => theme.global.current.value.dark)

const regionItems = Object.entries(text.regions).map(([value, title]) => ({ value: value as Region, title }))
const conditionItems = computed(() => choices.value.map((c) => c.name))
const origin = computed(() => {
  if (usual.value === null) return text.question.unknown
  if (Math.abs(usual.value - preTest.value) > 1e-9) return text.question.yours
  return text.question.usual(percent(usual.value), condition.value?.setting ?? '')
})

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
      <v-select
        class="region"
        :model-value="region"
        :items="regionItems"
        :aria-label="text.question.region"
        variant="underlined"
        data-test="region"
        @update:model-value="setRegion"
      />
      <span class="word">{{ text.question.isIt }}</span>
      <v-select
        class="condition"
        :model-value="condition?.name ?? null"
        :items="conditionItems"
        :aria-label="text.question.condition"
        :placeholder="text.question.noCondition"
        :readonly="!choices.length"
        variant="underlined"
        data-test="condition"
        @update:model-value="setCondition"
      />
      <span class="word">?</span>
      <PreTestInput :model-value="preTest" :origin="origin" @update:model-value="setPreTest" />
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
.region {
  flex: 0 1 150px;
  min-width: 130px;
}
.condition {
  flex: 1 1 320px;
  min-width: 180px;
  max-width: 460px;
}
.sentence :deep(.v-field__input) {
  padding-top: 0;
  padding-bottom: 2px;
  min-height: 32px;
  font-size: 0.94rem;
}
.sentence :deep(.v-field__append-inner) {
  padding-top: 0;
  align-items: center;
}
.sentence :deep(.v-select__selection-text) {
  font-weight: 600;
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
