<script setup lang="ts">
import { mdiMenuDown } from '@mdi/js'
import { computed } from 'vue'

import { useQuestion } from '@/shared/question/useQuestion'
import { places } from './places'

/** The menus at the end of the path: everything that is no step of it. */
const { carried } = useQuestion()
const groups = computed(places)
</script>

<template>
  <div class="places">
    <v-menu v-for="group in groups" :key="group.key" location="bottom end">
      <template #activator="{ props: activator }">
        <v-btn
          v-bind="activator"
          variant="text"
          size="small"
          :append-icon="mdiMenuDown"
          :data-test="`places-${group.key}`"
          >{{ group.title }}</v-btn
        >
      </template>
      <v-list density="compact">
        <v-list-item
          v-for="place in group.entries"
          :key="place.name"
          :to="{ name: place.name, query: carried }"
          :title="place.title"
          :data-test="`place-${place.name}`"
        />
      </v-list>
    </v-menu>
  </div>
</template>

<style scoped>
.places {
  display: flex;
  margin: -3px -8px 0 auto;
}
/* There the account's menu holds them. */
@media screen and (max-width: 600px) {
  .places {
    display: none;
  }
}
</style>
