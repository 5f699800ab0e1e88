<script setup{= if ts =} lang="ts"{= end =}>
import { RouterLink } from "vue-router";

import { setTitle } from "./title.{= ext =}";

setTitle("Nothing here");
</script>

<template>
  <h1>Nothing here</h1>
  <p>This address leads to no page. <RouterLink to="/">To the notes</RouterLink></p>
</template>
