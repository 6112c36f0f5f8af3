<script setup lang="ts">
import { mdiClose, mdiPlus } from '@mdi/js'
import { computed, ref, watch } from 'vue'

import { joints, motions, tissues } from '@/areas/catalogue/sheetWords'
import { api } from '@/shared/api/client'
import type { Joint, Motion, Region, StructureInput, StructureRow } from '@/shared/api/types'
import IconButton from '@/shared/layout/IconButton.vue'
import { text } from '@/shared/text'
import { undoBar } from '@/shared/undo'
import { useSaving } from '@/shared/useSaving'

/** Adds a structure, or edits one. */
const open = defineModel<boolean>('open', { required: true })
const props = defineProps<{ structure: StructureRow | null; region: Region }>()

const draft = ref<StructureInput>(empty())
const { failure, saving, begin, of, save: attempt } = useSaving(text.vocabulary.conflict)

function empty(): StructureInput {
  return { region: props.region, name: '', other_names: [], tissue: null, actions: [], retired: false }
}
watch(open, (shown) => {
  if (!shown) return
  const from = props.structure
  draft.value = from
    ? {
        region: from.region,
        name: from.name,
        other_names: [...from.other_names],
        tissue: from.tissue,
        actions: from.actions.map((action) => ({ ...action })),
        retired: from.retired,
      }
    : empty()
  begin(from?.version)
})

const items = (words: Record<string, string>) =>
  Object.entries(words).map(([value, title]) => ({ value, title }))
const muscle = computed(() => draft.value.tissue === 'muscle')
const addAction = () => draft.value.actions.push({ joint: 'shoulder' as Joint, motion: 'flexion' as Motion })

async function save() {
  const id = props.structure?.id
  const body = { ...draft.value, actions: muscle.value ? draft.value.actions : [] }
  const saved = await attempt((header) =>
    id
      ? api.PUT('/api/v1/structures/{id}', { params: { path: { id }, header }, body })
      : api.POST('/api/v1/structures', { body }),
  )
  if (!saved) return
  undoBar.offer(text.vocabulary.saved)
  open.value = false
}
</script>

<template>
  <v-dialog v-model="open" max-width="620">
    <v-card data-test="structure-dialog">
      <form class="dialog-form" novalidate @submit.prevent="save">
        <h2>{{ structure ? structure.name : text.vocabulary.add }}</h2>
        <p v-if="failure" role="alert" class="failure">{{ failure }}</p>
        <v-text-field
          v-model="draft.name"
          :label="text.vocabulary.name"
          :error-messages="of('name')"
          autofocus
          data-test="structure-name"
        />
        <v-combobox
          v-model="draft.other_names"
          :label="text.vocabulary.otherNames"
          multiple
          chips
          closable-chips
          :delimiters="[';']"
          :error-messages="of('other_names')"
        />
        <v-select
          v-model="draft.tissue"
          :items="items(tissues)"
          :label="text.vocabulary.tissue"
          :error-messages="of('tissue')"
          data-test="structure-tissue"
        />
        <template v-if="muscle">
          <div v-for="(action, index) in draft.actions" :key="index" class="action">
            <v-select
              v-model="action.motion"
              :items="items(motions)"
              :label="text.vocabulary.motion"
              hide-details
            />
            <v-select
              v-model="action.joint"
              :items="items(joints)"
              :label="text.vocabulary.joint"
              hide-details
            />
            <IconButton
              :icon="mdiClose"
              :label="text.vocabulary.removeAction(index + 1)"
              @click="draft.actions.splice(index, 1)"
            />
          </div>
          <v-btn :prepend-icon="mdiPlus" size="small" variant="text" @click="addAction">
            {{ text.vocabulary.addAction }}
          </v-btn>
        </template>
        <v-checkbox v-if="structure" v-model="draft.retired" :label="text.vocabulary.retire" hide-details />
        <div class="foot">
          <v-btn type="submit" variant="flat" color="primary" :loading="saving" data-test="save-structure">
            {{ text.vocabulary.save }}
          </v-btn>
          <v-btn variant="text" @click="open = false">{{ text.vocabulary.cancel }}</v-btn>
        </div>
      </form>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.action {
  display: grid;
  grid-template-columns: 1fr 1fr auto;
  gap: 8px;
  align-items: center;
}
.foot {
  gap: 8px;
}
</style>
