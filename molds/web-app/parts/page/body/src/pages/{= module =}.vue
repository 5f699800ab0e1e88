<script setup{= if ts =} lang="ts"{= end =}>
const heading = {= heading.json.replace("</", "<\\/") =};
</script>

<template>
  <h1>{{ heading }}</h1>
</template>
