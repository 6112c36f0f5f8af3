<script setup lang="ts">
import { computed, defineAsyncComponent, ref } from 'vue'

import type { IndicationKind, TestView } from '@/shared/api/types'
import { text } from '@/shared/text'
import ReadingTable from './ReadingTable.vue'
import { cautionNotes, deadline, normWords, repeatLine } from './sheetSentences'
import { biases, cautionKinds, indicationKinds } from './sheetWords'
import type { PartKey } from './sheetFields'
import SheetPart from './SheetPart.vue'
import VariantBody from './VariantBody.vue'

/** A sheet as a well-set page. For those who write, each part offers its form in its own place (the slot). */
const VariantComparison = defineAsyncComponent(() => import('./VariantComparison.vue'))
const props = defineProps<{ sheet: TestView; editable?: boolean; open?: PartKey | null }>()
defineEmits<{ edit: [part: PartKey] }>()

const shown = ref(0)
const variant = computed(() => props.sheet.variants[shown.value] ?? props.sheet.variants[0])
const burden = computed(() => {
  const { irritation, tries, minutes, hands } = props.sheet.burden
  return [
    typeof irritation === 'number' ? text.sheet.irritation[Math.round(irritation)] : '',
    typeof tries === 'number' ? text.sheet.tries(String(tries)) : '',
    typeof minutes === 'number' ? text.sheet.minutes(String(minutes)) : '',
    typeof hands === 'number' ? text.sheet.handsNeeded(String(hands)) : '',
  ].filter(Boolean)
})
const retest = computed(() => {
  const { detectable_change, unit } = props.sheet.retest
  return typeof detectable_change === 'number' ? text.sheet.change(`${detectable_change} ${unit}`.trim()) : ''
})
const of = (part: PartKey) => ({ part, title: text.parts[part], editable: props.editable, open: props.open })
const norms = computed(() => props.sheet.norms.map((norm) => ({ ...norm, ...normWords(norm) })))
/** Indications by kind, in the order in which a history is taken. */
const indications = computed(() =>
  (Object.keys(indicationKinds) as IndicationKind[])
    .map((kind) => ({ kind, entries: props.sheet.indications.filter((it) => it.kind === kind) }))
    .filter((group) => group.entries.length),
)
const pitfalls = computed(() =>
  props.sheet.pitfalls.map((pitfall, index) => ({ ...pitfall, ...props.sheet.derived.pitfalls[index] })),
)
</script>

<template>
  <article class="sheet wrap-anywhere">
    <SheetPart v-bind="of('about')" class="finding" @edit="$emit('edit', $event)">
      <template #form><slot part="about" /></template>
      <h2>{{ text.sheet.finding }}</h2>
      <p class="pre-line" dir="auto">{{ sheet.positive_finding }}</p>
      <template v-if="indications.length">
        <h2>{{ text.sheet.indications }}</h2>
        <dl class="indications">
          <template v-for="group in indications" :key="group.kind">
            <dt>{{ indicationKinds[group.kind] }}</dt>
            <dd>
              <div v-for="(it, index) in group.entries" :key="index" dir="auto">
                {{ it.text }}
                <span v-if="it.variant" class="muted small">({{ text.sheet.onlyVariant(it.variant) }})</span>
                <span v-if="it.reason" class="detail">
                  <i>{{ text.sheet.why }}</i> {{ it.reason }}
                </span>
              </div>
            </dd>
          </template>
        </dl>
      </template>
    </SheetPart>

    <SheetPart v-bind="of('cautions')" @edit="$emit('edit', $event)">
      <template #form><slot part="cautions" /></template>
      <section v-if="sheet.urgent.length" class="urgent">
        <h2>{{ text.sheet.urgent }}</h2>
        <ul>
          <li v-for="(reading, index) in sheet.urgent" :key="index" class="pre-line" dir="auto">
            <b>{{ reading.finding }}</b> {{ reading.action }}
            <b v-if="deadline(reading.within_hours)">{{ deadline(reading.within_hours) }}</b>
          </li>
        </ul>
      </section>

      <section class="cautions">
        <h2>{{ text.sheet.cautions }}</h2>
        <ul v-if="sheet.cautions.length">
          <li v-for="(caution, index) in sheet.cautions" :key="index" class="pre-line" dir="auto">
            <b v-if="caution.kind">{{ cautionKinds[caution.kind] }}: </b>{{ caution.text }}
            <span v-if="caution.screening" class="detail">
              <i>{{ text.sheet.ask }}</i> {{ caution.screening }}
              <template v-if="cautionNotes(caution).unsafe">
                <i>{{ text.sheet.unsafe }}</i> <b>{{ cautionNotes(caution).unsafe }}</b>
              </template>
            </span>
            <span v-if="caution.instead || deadline(caution.within_hours)" class="detail">
              <i>{{ caution.kind === 'contraindication' ? text.sheet.instead : text.sheet.thenDo }}</i>
              {{ caution.instead }}
              <b v-if="deadline(caution.within_hours)">{{ deadline(caution.within_hours) }}</b>
            </span>
            <span v-if="cautionNotes(caution).reach" class="detail">
              <i>{{ text.sheet.holdsFor }}</i> {{ cautionNotes(caution).reach }}
            </span>
          </li>
        </ul>
        <p v-else class="muted">{{ text.sheet.noCaution }}</p>
      </section>
    </SheetPart>

    <SheetPart v-bind="of('variants')" @edit="$emit('edit', $event)">
      <template #form><slot part="variants" /></template>
      <h2>{{ text.sheet.procedure }}</h2>
      <div
        v-if="sheet.variants.length > 1"
        class="choice no-print"
        role="group"
        :aria-label="text.sheet.variants"
      >
        <v-btn
          v-for="(way, index) in sheet.variants"
          :key="index"
          size="small"
          :variant="way === variant ? 'tonal' : 'text'"
          :color="way === variant ? 'primary' : undefined"
          :aria-pressed="way === variant"
          @click="shown = index"
        >
          {{ way.name }}<span v-if="index === 0" class="muted">&nbsp;· {{ text.sheet.baseline }}</span>
        </v-btn>
      </div>
      <VariantBody
        v-if="variant"
        :variant="variant"
        :derived="sheet.derived.steps[sheet.variants.indexOf(variant)]"
        :alone="sheet.variants.length === 1"
      />
      <p v-else class="muted">{{ text.sheet.nothing }}</p>
      <VariantComparison v-if="sheet.variants.length > 1" :variants="sheet.variants" />
    </SheetPart>

    <SheetPart
      v-if="sheet.interpretation.rows.length || editable"
      v-bind="of('interpretation')"
      @edit="$emit('edit', $event)"
    >
      <template #form><slot part="interpretation" /></template>
      <ReadingTable v-if="sheet.interpretation.rows.length" :table="sheet.interpretation" />
      <template v-else>
        <h2>{{ text.sheet.interpretation }}</h2>
        <p class="muted">{{ text.sheet.noTable }}</p>
      </template>
    </SheetPart>

    <SheetPart v-bind="of('pitfalls')" @edit="$emit('edit', $event)">
      <template #form><slot part="pitfalls" /></template>
      <section>
        <h2>{{ text.sheet.pitfalls }}</h2>
        <ul v-if="sheet.pitfalls.length">
          <li v-for="(pitfall, index) in pitfalls" :key="index" class="pre-line" dir="auto">
            {{ pitfall.text }}
            <b v-if="pitfall.direction" class="bias">→ {{ biases[pitfall.direction] }}</b>
            <span v-if="pitfall.follows" class="muted small"> ({{ text.sheet.follows }})</span>
            <span v-if="pitfall.patient_side" class="muted"> ({{ text.sheet.patientSide }})</span>
            <span v-if="pitfall.mechanism" class="detail">
              <i>{{ text.sheet.why }}</i> {{ pitfall.mechanism }}
            </span>
            <span v-if="pitfall.cue" class="detail">
              <i>{{ text.sheet.cue }}</i> {{ pitfall.cue }}
            </span>
            <span v-if="pitfall.remedy" class="detail">
              <i>{{ text.sheet.remedy }}</i> {{ pitfall.remedy }}
            </span>
            <span v-if="pitfall.spoils_negative" class="detail">
              <b>{{ text.sheet.spoilsNegative }}</b>
            </span>
          </li>
        </ul>
        <p v-else class="muted">{{ text.sheet.nothing }}</p>
      </section>

      <section v-if="sheet.alternatives.length">
        <h2>{{ text.sheet.alternatives }}</h2>
        <p class="small muted">{{ text.sheet.screenFirst }}</p>
        <ul>
          <li v-for="(way, index) in sheet.alternatives" :key="index" dir="auto">
            {{ way.situation }} → {{ way.instead }}
          </li>
        </ul>
      </section>
    </SheetPart>

    <SheetPart v-bind="of('measures')" @edit="$emit('edit', $event)">
      <template #form><slot part="measures" /></template>
      <section v-if="norms.length">
        <h2>{{ text.sheet.norms }}</h2>
        <ul>
          <li v-for="(norm, index) in norms" :key="index" dir="auto">
            {{ norm.measure }}<template v-if="norm.who">, {{ norm.who }}</template
            >: <b>{{ norm.range }}</b> <span class="muted small">{{ norm.source }}</span>
          </li>
        </ul>
      </section>

      <section v-if="sheet.repeats.length">
        <h2>{{ text.sheet.repeats }}</h2>
        <ul>
          <li v-for="(repeat, index) in sheet.repeats" :key="index" dir="auto">{{ repeatLine(repeat) }}</li>
        </ul>
      </section>

      <section v-if="sheet.searches.length">
        <h2>{{ text.sheet.searches }}</h2>
        <ul>
          <li v-for="(search, index) in sheet.searches" :key="index" dir="auto">
            {{ search.when }}, {{ search.place }}
            <span v-if="search.found" class="detail">
              <i>{{ text.sheet.found }}</i> {{ search.found }}
            </span>
            <span class="detail">
              <i>{{ text.sheet.unusable }}</i> {{ search.unusable }}
            </span>
          </li>
        </ul>
      </section>

      <dl class="small facts">
        <dt>{{ text.sheet.condition }}</dt>
        <dd dir="auto">{{ sheet.condition }}</dd>
        <template v-if="sheet.other_conditions.length">
          <dt>{{ text.sheet.otherConditions }}</dt>
          <dd dir="auto">{{ sheet.other_conditions.join(', ') }}</dd>
        </template>
        <template v-if="burden.length">
          <dt>{{ text.sheet.burden }}</dt>
          <dd>{{ burden.join(' · ') }}</dd>
        </template>
        <template v-if="retest || sheet.retest.keep_same">
          <dt>{{ text.sheet.retest }}</dt>
          <dd dir="auto">
            {{ retest }}
            <template v-if="sheet.retest.keep_same">
              {{ text.sheet.keepSame }} {{ sheet.retest.keep_same }}
            </template>
          </dd>
        </template>
        <template v-if="sheet.sources.length">
          <dt>{{ text.sheet.sources }}</dt>
          <dd dir="auto">
            <p v-for="source in sheet.sources" :key="source">{{ source }}</p>
          </dd>
        </template>
      </dl>
    </SheetPart>
  </article>
</template>

<style scoped>
.sheet {
  max-width: 76ch;
}
section {
  margin-bottom: 18px;
}
h2 {
  margin-bottom: 4px;
  font-size: 1.05rem;
}
ul {
  padding-left: 1.3em;
}
li {
  margin-bottom: 5px;
}
.finding p {
  font-size: 1.08rem;
}
.cautions,
.urgent {
  padding-left: 14px;
  border-left: 3px solid rgb(var(--v-theme-error));
}
.urgent h2 {
  color: rgb(var(--v-theme-error));
}
.detail {
  display: block;
  color: var(--muted);
  font-size: 0.875rem;
}
.bias {
  white-space: nowrap;
}
.choice {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
  margin: 2px 0 8px;
}
dl {
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 3px 14px;
}
.facts {
  padding-top: 10px;
  border-top: 1px solid var(--line);
}
.indications {
  margin-bottom: 18px;
}
.finding p + h2 {
  margin-top: 14px;
}
dt {
  color: var(--muted);
}
@media (max-width: 600px) {
  .indications {
    grid-template-columns: 1fr;
  }
}
</style>
