<script setup{= if ts =} lang="ts"{= end =}>
// The first page: notes, held in memory. Copy it or replace it.
import { ref } from "vue";

const notes = ref(["The first note"]);
const text = ref("");

function add() {
  if (text.value.trim() === "") return;
  notes.value.push(text.value);
  text.value = "";
}
</script>

<template>
  <h1>Notes</h1>
  <ul>
    <li v-for="(note, at) in notes" :key="at">{{ note }}</li>
  </ul>
  <form @submit.prevent="add">
    <label>A new note <input v-model="text" name="note" maxlength="1000" required /></label>
    <button>Add it</button>
  </form>
</template>
