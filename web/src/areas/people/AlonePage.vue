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
</style>
