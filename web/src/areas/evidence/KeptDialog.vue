<script setup lang="ts">
import { moment } from '@/shared/format'
import WaitLine from '@/shared/layout/WaitLine.vue'
import { text } from '@/shared/text'
import type { useKeptForm } from './useKeptForm'

/** The frame of a form that is kept as it is typed: what was left, what went wrong, saving and putting away. */
const open = defineModel<boolean>('open', { required: true })
defineProps<{
  name: string
  title: string
  saveLabel: string
  /** It corrects what is saved. */
  correcting: boolean
  failure: string
  saving: boolean
  kept: ReturnType<typeof useKeptForm>
  width: number
}>()
const emit = defineEmits<{ save: [] }>()
</script>

<template>
  <v-dialog v-model="open" :max-width="width" persistent :aria-labelledby="`${name}-title`">
    <v-card class="padded" :data-test="`${name}-dialog`">
      <h2 :id="`${name}-title`">{{ title }} <slot name="mark" /></h2>
      <slot name="before" />
      <form novalidate @submit.prevent="emit('save')">
        <p v-if="kept.resumed.value" class="resumed small" :data-test="`${name}-resumed`">
          {{ text.editor.goOn(moment(kept.resumed.value)) }}
          <v-btn size="small" :data-test="`${name}-anew`" @click="kept.anew">{{
            text.study.anew(correcting)
          }}</v-btn>
        </p>
        <p v-if="failure" class="failure" role="alert">{{ failure }}</p>
        <slot name="theirs" />
        <WaitLine v-if="!kept.ready.value" />
        <slot v-else />
        <slot name="after" />
        <div class="foot">
          <v-btn type="submit" variant="flat" color="primary" :loading="saving" :data-test="`save-${name}`">
            {{ saveLabel }}
          </v-btn>
          <v-btn :data-test="`cancel-${name}`" @click="kept.cancel">{{ text.study.cancel }}</v-btn>
          <span class="small muted" aria-live="polite" :data-test="`${name}-kept`">
            {{
              kept.pending.value
                ? text.editor.notKept
                : kept.keptAt.value
                  ? text.editor.keptAt(moment(kept.keptAt.value))
                  : ''
            }}
          </span>
        </div>
      </form>
    </v-card>
  </v-dialog>
</template>

<style scoped>
h2 {
  margin-bottom: 8px;
}
.failure {
  margin-top: 8px;
}
.foot {
  align-items: center;
  margin-top: 16px;
}
.resumed {
  margin: 8px 0;
  padding: 8px 12px;
  background: rgba(var(--v-theme-primary), 0.07);
  border-radius: 6px;
}
</style>
