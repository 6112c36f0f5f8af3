<script setup lang="ts">
import type { PooledAgreement, TestRow } from '@/shared/api/types'
import { coefficient, coefficientInterval, percent, whole } from '@/shared/format'
import SampleMark from '@/shared/layout/SampleMark.vue'
import { text } from '@/shared/text'

/** How far examiners agree on what is pooled: a test that they cannot agree on says so beside its ratios. */
const props = defineProps<{ of: PooledAgreement[]; tests: TestRow[]; several: boolean }>()

const words = text.pool.agreement
const name = (id: string) => (props.several ? (props.tests.find((test) => test.id === id)?.name ?? '') : '')
</script>

<template>
  <section data-test="agreement-beside">
    <h2>{{ words.title }}</h2>
    <p v-if="!of.length" class="small muted">{{ words.none }}</p>
    <p v-for="(one, index) in of" :key="index" class="line">
      <template v-if="name(one.test)">{{ name(one.test) }}: </template>
      {{ text.agreement.betweens[one.between] }}, {{ text.agreement.measures[one.measure] }}
      <b>{{ coefficient(one.estimate.estimate) }}</b> ({{ coefficientInterval(one.estimate) }}),
      {{ text.agreement.sizes[one.size.word] }}
      <SampleMark v-if="one.sample" />
      <span class="small muted">
        {{
          words.from(one.k, one.subjects ? whole(one.subjects) : '', one.i2 == null ? '' : percent(one.i2))
        }}
        ({{ text.agreement.schemes[one.size.scheme] }})
      </span>
      <span v-if="one.low" class="low small">{{ words.low }}</span>
    </p>
  </section>
</template>

<style scoped>
.line + .line {
  margin-top: 6px;
}
.sample-mark {
  margin-right: 6px;
}
.low {
  display: block;
  font-weight: 600;
}
</style>
