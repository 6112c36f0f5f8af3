<script setup lang="ts">
import { useId } from 'vue'

/** A question and its few answers on one line; the arrow keys move among them. */
const chosen = defineModel<string | null>({ required: true })
defineProps<{ label: string; choices: Record<string, string>; note?: string; strong?: boolean }>()
const name = useId()
</script>

<template>
  <div class="line" role="radiogroup" :aria-labelledby="name">
    <span :id="name" :class="{ strong }">
      {{ label }} <span v-if="note" class="small muted">{{ note }}</span>
    </span>
    <span class="choices">
      <label v-for="(words, value) in choices" :key="value" :class="{ chosen: chosen === value }">
        <input
          type="radio"
          :name="name"
          :value="value"
          :checked="chosen === value"
          @change="chosen = String(value)"
        />{{ words }}
      </label>
    </span>
  </div>
</template>

<style scoped>
.line {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  justify-content: space-between;
  gap: 2px 16px;
}
.line > span:first-child {
  flex: 1 1 22em;
}
.strong,
.chosen {
  font-weight: 600;
}
.choices {
  display: grid;
  grid-auto-columns: 7.6em;
  grid-auto-flow: column;
}
label {
  display: flex;
  align-items: center;
  gap: 5px;
  font-size: 0.875rem;
  cursor: pointer;
}
@media (max-width: 600px) {
  .line > span:first-child,
  .choices {
    flex: 1 0 100%;
    min-width: 0;
  }
  .choices {
    grid-auto-flow: row;
    grid-template-columns: repeat(2, 1fr);
  }
}
input {
  accent-color: rgb(var(--v-theme-primary));
}
</style>
