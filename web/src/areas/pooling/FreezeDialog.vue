<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'

import { api, data } from '@/shared/api/client'
import type { PoolInput, ReferenceRange } from '@/shared/api/types'
import { useQuestion } from '@/shared/question/useQuestion'
import { text } from '@/shared/text'
import { undoBar } from '@/shared/undo'
import { useSaving } from '@/shared/useSaving'

/** Freezes a pool under a name. */
const open = defineModel<boolean>('open', { required: true })
const props = defineProps<{ pool: PoolInput; kept: number; reference: ReferenceRange | null }>()

const words = text.pool.snapshot
const router = useRouter()
const { carried } = useQuestion()
const [title, note] = [ref(''), ref('')]
const { failure, saving, of, save } = useSaving('')
const refused = computed(() => [...of('pool'), ...of('reference')])

async function submit() {
  const body = {
    title: title.value,
    note: note.value,
    pool: { ...props.pool, by: null },
    reference: props.reference,
  }
  let id = ''
  const saved = await save(async () => {
    id = data(await api.POST('/api/v1/snapshots', { body })).id
  })
  if (!saved) return
  open.value = false
  undoBar.offer(words.frozen)
  await router.push({ name: 'snapshot', params: { snapshot: id }, query: carried.value })
}
</script>

<template>
  <v-dialog v-model="open" max-width="560" aria-labelledby="freeze-title">
    <v-card class="padded" data-test="freeze-dialog">
      <h2 id="freeze-title">{{ words.freezeTitle }}</h2>
      <p class="small about">
        {{ words.freezeAbout(kept) }}
        <template v-if="reference">{{ words.withCorrection }}</template>
      </p>
      <form novalidate @submit.prevent="submit">
        <p v-if="failure || refused.length" class="failure" role="alert">
          {{ failure || refused.join(' ') }}
        </p>
        <v-text-field
          v-model="title"
          :label="words.name"
          :hint="words.nameHint"
          persistent-hint
          autofocus
          dir="auto"
          :error-messages="of('title')"
          data-test="freeze-name"
        />
        <v-textarea
          v-model="note"
          :label="words.note"
          rows="2"
          auto-grow
          dir="auto"
          :error-messages="of('note')"
        />
        <div class="foot">
          <v-btn type="submit" variant="flat" color="primary" :loading="saving" data-test="freeze-save">
            {{ words.save }}
          </v-btn>
          <v-btn @click="open = false">{{ text.study.cancel }}</v-btn>
        </div>
      </form>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.about {
  margin: 8px 0 14px;
}
form {
  display: grid;
  gap: 12px;
}
</style>
