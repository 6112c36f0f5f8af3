<script setup lang="ts">
import { computed } from 'vue'

import { useLevels } from '@/shared/api/queries'
import { percent, percentInterval, percentPoint, ratioInterval, ratioPoint, whole } from '@/shared/format'
import FailureNotice from '@/shared/layout/FailureNotice.vue'
import SampleMark from '@/shared/layout/SampleMark.vue'
import WideBlock from '@/shared/layout/WideBlock.vue'
import { useQuestion } from '@/shared/question/useQuestion'
import { text } from '@/shared/text'

/** What each level of a test's finding is worth, over the studies that share its levels. */
const props = defineProps<{ testId: string; condition: string | undefined; given: boolean }>()

const { preTest } = useQuestion()
const asked = useLevels(
  () => props.testId,
  () => props.condition,
  preTest,
  () => props.given,
)
const answer = computed(() => (asked.data.value?.levels.length ? asked.data.value : null))
const words = text.levels
</script>

<template>
  <FailureNotice v-if="given && asked.isError.value && !answer" :query="asked" :title="words.failed" />
  <section v-else-if="given && answer" class="levels" data-test="level-ratios">
    <h3>
      {{ words.ofTest }}
      <SampleMark v-if="answer.sample" />
      <span class="small muted count">{{ words.studies(answer.studies) }}</span>
    </h3>
    <WideBlock :label="words.ofTest">
      <table class="plain-table">
        <thead>
          <tr>
            <th scope="col">{{ words.name }}</th>
            <th scope="col">{{ words.people }}</th>
            <th scope="col">{{ words.ratio }}</th>
            <th scope="col">{{ words.after(percent(preTest)) }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="level in answer.levels" :key="level.name">
            <th scope="row" dir="auto">{{ level.name }}</th>
            <td>{{ whole(level.with) }} / {{ whole(level.without) }}</td>
            <td>
              <template v-if="level.ratio">
                <b>{{ ratioPoint(level.ratio) }}</b>{{ ' '
                }}<span class="small">({{ ratioInterval(level.ratio) }})</span>
              </template>
              <template v-else>{{ text.unknown }}</template>
              <b v-if="!level.converged" class="fault small">{{ words.notConverged }}</b>
            </td>
            <td>
              <template v-if="level.after">
                <b>{{ percentPoint(level.after) }}</b>{{ ' '
                }}<span class="small">({{ percentInterval(level.after) }})</span>
              </template>
              <template v-else>{{ text.unknown }}</template>
            </td>
          </tr>
        </tbody>
      </table>
    </WideBlock>
    <p class="small muted">
      {{ words.method }} <template v-if="answer.apart">{{ words.apart(answer.apart) }}</template>
    </p>
  </section>
</template>

<style scoped>
.levels {
  margin: 18px 0;
}
.count {
  margin-left: 6px;
  font-weight: 400;
}
td .small {
  white-space: nowrap;
}
.fault {
  color: rgb(var(--v-theme-error));
}
</style>
