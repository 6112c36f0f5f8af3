<script setup lang="ts">
import { mdiHelpCircleOutline, mdiMenuDown, mdiMenuUp, mdiWeatherNight, mdiWhiteBalanceSunny } from '@mdi/js'
import { computed, ref } from 'vue'

import AccountMenu from '@/areas/people/AccountMenu.vue'
import { percent } from '@/shared/format'
import type { Region } from '@/shared/api/types'
import { guide } from '@/shared/guide'
import { text } from '@/shared/text'
import { useThemeSwitch } from '@/shared/theme'
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
const { dark, toggle } = useThemeSwitch()

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

/** On a phone the question is one line, until somebody opens it. */
const open = ref(false)
</script>

<template>
  <header class="strip" :aria-label="text.question.label">
    <router-link class="brand" :to="{ name: 'catalogue' }">pruvex</router-link>
    <button
      type="button"
      class="line no-print"
      :aria-expanded="open"
      :title="text.layout.changeQuestion"
      data-test="question-line"
      @click="open = !open"
    >
      <span class="asked">{{ condition?.name ?? text.question.noCondition }}</span>
      <b>{{ percent(preTest) }}</b>
      <v-icon :icon="open ? mdiMenuUp : mdiMenuDown" />
    </button>
    <div class="sentence" :class="{ open }">
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
        :title="condition?.name"
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
        :icon="mdiHelpCircleOutline"
        size="small"
        :aria-label="text.layout.help"
        :title="text.layout.help"
        data-test="guide"
        @click="guide.open = true"
      />
      <v-btn
        class="wide-only"
        variant="text"
        :icon="dark ? mdiWhiteBalanceSunny : mdiWeatherNight"
        size="small"
        :aria-label="text.layout.theme(dark)"
        :title="text.layout.theme(dark)"
        data-test="theme"
        @click="toggle()"
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
  /* Room for where the pre-test probability comes from. */
  max-width: min(460px, 26vw);
}
.more {
  color: var(--muted);
}
.tools {
  display: flex;
}
@media (max-width: 900px) {
  .condition {
    max-width: min(460px, 100%);
  }
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
/* One line, that opens: what was found is what a small page is for. */
.line {
  display: none;
}
@media screen and (max-width: 600px) {
  .strip {
    position: sticky;
    flex-wrap: wrap;
    gap: 0 4px;
    min-height: 48px;
    padding: 2px 8px;
  }
  .brand {
    flex: none;
    width: 32px;
    height: 44px;
    overflow: hidden;
    background: url('/icon.svg') center / 28px no-repeat;
    text-indent: 60px;
    white-space: nowrap;
  }
  .line {
    flex: 1;
    display: flex;
    align-items: center;
    gap: 6px;
    min-width: 0;
    height: 44px;
    padding: 0 4px;
    border: 0;
    background: none;
    color: inherit;
    font: inherit;
    text-align: left;
    cursor: pointer;
  }
  .asked {
    flex: 1;
    overflow: hidden;
    font-size: 0.875rem;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .sentence {
    display: none;
    padding: 4px 6px 10px;
  }
  .sentence.open {
    display: flex;
  }
  .chooser {
    min-height: 44px;
  }
}
@media print {
  .strip {
    position: static;
    flex-wrap: nowrap;
    min-height: 0;
    padding: 0 0 4px;
  }
  .sentence {
    flex-basis: auto;
    order: 0;
    font-size: 0.875rem;
  }
}
</style>
