<!-- A page for somebody who is not signed in: one narrow form. -->
<template>
  <main class="page"><slot /></main>
</template>

<style scoped>
.page {
  max-width: 460px;
  margin: 9vh auto 40px;
  padding: 0 20px;
}
.page :deep(.form) {
  display: grid;
  gap: 14px;
  justify-items: start;
}
.page :deep(.form > .v-input) {
  width: 100%;
}
</style>
