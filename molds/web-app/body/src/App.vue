<script setup{= if ts =} lang="ts"{= end =}>
// What stands around every page.
import { pages{= if ts =}, type Page{= end =} } from "./pages.{= code =}";

{= if ts =}
defineProps<{ page: Page }>();
{= else =}
defineProps({ page: { type: Object, required: true } });
{= end =}
</script>

<template>
  <nav v-if="pages.length > 1">
    <a v-for="{ path, title } in pages" :key="path" :href="path" :aria-current="path === page.path ? 'page' : undefined">{{ title }}</a>
  </nav>
  <main><component :is="page.view" /></main>
</template>
