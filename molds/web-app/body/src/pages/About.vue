<script setup{= if ts =} lang="ts"{= end =}>
// What this site is.
const summary = {= summary.json.replace("</", "<\\/") =};
</script>

<template>
  <h1>About</h1>
  <p>{{ summary }}</p>
</template>
