<script setup lang="ts">
import { computed } from 'vue'

import { useRegions } from '@/shared/api/queries'
import type { Region } from '@/shared/api/types'
import { useQuestion } from '@/shared/question/useQuestion'
import { text } from '@/shared/text'

const regions = useRegions()
const { region } = useQuestion()
/** The body is known even while the server is not: only the counts wait for it. */
const stops = computed(
  () =>
    regions.data.value ?? (Object.keys(text.regions) as Region[]).map((name) => ({ region: name, tests: 0 })),
)
</script>

<template>
  <nav class="rail no-print" :aria-label="text.layout.rail">
    <ol>
      <li
        v-for="stop in stops"
        :key="stop.region"
        :class="{ here: stop.region === region, bare: !stop.tests }"
      >
        <router-link
          :to="{ name: 'catalogue', query: { region: stop.region } }"
          :aria-current="stop.region === region ? 'true' : undefined"
        >
          <span class="dot" aria-hidden="true" />
          <span>
            {{ text.regions[stop.region] }}
            <span class="count">{{ stop.tests ? text.layout.tests(stop.tests) : '–' }}</span>
          </span>
        </router-link>
      </li>
    </ol>
  </nav>
</template>

<style scoped>
.rail {
  border-right: 1px solid var(--line);
  padding: 22px 8px 22px 18px;
}
ol {
  position: sticky;
  top: 80px;
  list-style: none;
  padding: 0;
}
li {
  position: relative;
  padding-bottom: 15px;
}
li::before {
  content: '';
  position: absolute;
  left: 5px;
  top: 10px;
  bottom: -10px;
  border-left: 2px solid var(--line);
}
li:last-child::before {
  display: none;
}
a {
  position: relative;
  display: flex;
  gap: 9px;
  color: inherit;
  text-decoration: none;
  font-size: 0.8125rem;
  line-height: 1.25;
}
.bare a {
  color: var(--muted);
}
.dot {
  flex: none;
  width: 12px;
  height: 12px;
  margin-top: 2px;
  border: 2px solid var(--muted);
  border-radius: 50%;
  background: rgb(var(--v-theme-background));
}
.here a {
  font-weight: 700;
}
.here .dot {
  border-color: rgb(var(--v-theme-primary));
  background: rgb(var(--v-theme-primary));
}
.count {
  display: block;
  color: var(--muted);
  font-size: 0.75rem;
  font-weight: 400;
}
/* There the question's own line names the region. */
@media screen and (max-width: 600px) {
  .rail {
    display: none;
  }
}
@media (max-width: 900px) {
  .rail {
    border-right: 0;
    border-bottom: 1px solid var(--line);
    padding: 8px 12px;
    overflow-x: auto;
  }
  ol {
    position: static;
    display: flex;
    gap: 18px;
  }
  li {
    padding: 0;
    flex: none;
  }
  li::before {
    display: none;
  }
}
</style>
