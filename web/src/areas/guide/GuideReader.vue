<script setup lang="ts">
import { mdiMagnify } from '@mdi/js'
import { computed, nextTick, ref, watch } from 'vue'

import { text } from '@/shared/text'
import { guidePages, search } from './guidePages'

/** The guide: its pages, one of them, and a search through all. Whoever shows it says where its links lead. */
const props = defineProps<{ page: string }>()
const emit = defineEmits<{ go: [path: string] }>()

const words = text.guide
const KEYBOARD = 'keyboard'
const wide = window.matchMedia('(min-width: 601px)').matches
const typed = ref('')
const found = computed(() => search(typed.value))
const shown = computed(() => guidePages.find(({ key }) => key === props.page))
const groups = computed(() =>
  (['guide', 'methods'] as const).map((kind) => ({
    kind,
    pages: [
      ...guidePages.filter((page) => page.kind === kind),
      ...(kind === 'guide' ? [{ key: KEYBOARD, title: text.shortcuts.title }] : []),
    ],
  })),
)
const reading = ref<HTMLElement | null>(null)

function follow(event: MouseEvent) {
  const link = (event.target as HTMLElement).closest('a')
  const to = link?.getAttribute('href')
  if (!to?.startsWith('/') || event.ctrlKey || event.metaKey || event.shiftKey) return
  event.preventDefault()
  emit('go', to)
}
async function open(key: string, block?: number) {
  typed.value = ''
  emit('go', `/guide/${key}`)
  await nextTick()
  if (block !== undefined)
    reading.value?.querySelector(`#guide-${block}`)?.scrollIntoView({ block: 'center' })
}
watch(
  () => props.page,
  () => reading.value?.scrollIntoView({ block: 'nearest' }),
)
</script>

<template>
  <div class="guide">
    <nav :aria-label="words.contents">
      <v-text-field
        v-model="typed"
        :label="words.search"
        :prepend-inner-icon="mdiMagnify"
        clearable
        density="compact"
        hide-details
        data-test="guide-search"
      />
      <!-- On a phone the page itself comes first. -->
      <details :open="wide">
        <summary class="phone-only">{{ words.contents }}</summary>
        <section v-for="group in groups" :key="group.kind">
          <h3>{{ words.kinds[group.kind] }}</h3>
          <ul>
            <li v-for="entry in group.pages" :key="entry.key">
              <a
                :href="`/guide/${entry.key}`"
                :aria-current="entry.key === page ? 'page' : undefined"
                :data-test="`guide-${entry.key}`"
                @click.prevent="open(entry.key)"
                >{{ words.pages[entry.key] ?? entry.title }}</a
              >
            </li>
          </ul>
        </section>
      </details>
    </nav>
    <article ref="reading" data-test="guide-page">
      <template v-if="typed?.trim()">
        <h1>{{ words.found(found.length) }}</h1>
        <p v-if="!found.length">{{ words.nothing }}</p>
        <ul v-else class="found">
          <li v-for="hit in found" :key="`${hit.page.key}-${hit.block}`">
            <a
              :href="`/guide/${hit.page.key}`"
              data-test="guide-hit"
              @click.prevent="open(hit.page.key, hit.block)"
              >{{ words.pages[hit.page.key] ?? hit.page.title }}</a
            >
            <p class="small">{{ hit.excerpt }}</p>
          </li>
        </ul>
      </template>
      <template v-else-if="page === KEYBOARD">
        <h1>{{ text.shortcuts.title }}</h1>
        <dl>
          <template v-for="[key, what] in text.shortcuts.list" :key="what">
            <dt>
              <kbd>{{ key }}</kbd>
            </dt>
            <dd>{{ what }}</dd>
          </template>
        </dl>
      </template>
      <!-- Made of the documents that ship with the application, with everything but their own markings escaped. -->
      <!-- eslint-disable-next-line vue/no-v-html -->
      <div v-else-if="shown" class="text" @click="follow" v-html="shown.html" />
      <p v-else>{{ words.noPage }}</p>
    </article>
  </div>
</template>

<style scoped>
.guide {
  display: grid;
  grid-template-columns: 210px minmax(0, 72ch);
  gap: 20px 36px;
  align-items: start;
}
nav h3 {
  margin: 14px 0 4px;
}
nav ul {
  padding: 0;
  list-style: none;
}
nav a {
  display: block;
  padding: 3px 0 3px 10px;
  border-left: 3px solid transparent;
  color: inherit;
  font-size: 0.875rem;
  text-decoration: none;
}
nav a:hover {
  text-decoration: underline;
}
nav a[aria-current] {
  border-left-color: rgb(var(--v-theme-primary));
  font-weight: 600;
}
article {
  min-width: 0;
  scroll-margin-top: 70px;
}
.found {
  padding: 0;
  list-style: none;
}
.found li {
  margin-top: 12px;
}
dl {
  display: grid;
  grid-template-columns: 90px 1fr;
  gap: 8px 12px;
  margin: 14px 0;
}
kbd {
  padding: 1px 7px;
  border: 1px solid var(--line);
  border-radius: 4px;
  background: rgb(var(--v-theme-surface));
  color: inherit;
}
.text :deep(h2) {
  margin: 22px 0 6px;
}
.text :deep(h3) {
  margin: 16px 0 4px;
}
.text :deep(p),
.text :deep(ul),
.text :deep(ol),
.text :deep(table),
.text :deep(pre) {
  margin: 10px 0;
}
.text :deep(ul),
.text :deep(ol) {
  padding-left: 1.4em;
}
.text :deep(li) {
  margin: 4px 0;
}
.text :deep(pre) {
  white-space: pre-wrap;
  padding: 10px 12px;
  border: 1px solid var(--line);
  border-radius: 6px;
}
.text :deep(code) {
  overflow-wrap: anywhere;
  font-size: 0.85em;
}
.text :deep(table) {
  display: block;
  overflow-x: auto;
  border-collapse: collapse;
  font-size: 0.875rem;
}
.text :deep(th),
.text :deep(td) {
  padding: 4px 12px 4px 0;
  border-bottom: 1px solid var(--line);
  text-align: left;
  vertical-align: top;
}
@media (max-width: 760px) {
  .guide {
    grid-template-columns: minmax(0, 1fr);
  }
  nav section ul {
    display: flex;
    flex-wrap: wrap;
    gap: 0 14px;
  }
  nav a {
    padding: 11px 0;
    border-left: 0;
  }
}
summary {
  padding: 12px 0;
}
@media print {
  nav {
    display: none;
  }
  .guide {
    display: block;
  }
}
</style>
