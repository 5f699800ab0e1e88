// The list of notes, and the form for one more.

import { addNote, listNotes } from "./notes.js";

const form = document.getElementById("new-note");
const list = document.getElementById("notes");
const failure = document.getElementById("failure");

async function show() {
  const items = (await listNotes()).map(({ text }) => {
    const item = document.createElement("li");
    item.textContent = text;
    return item;
  });
  list.replaceChildren(...items);
}

/** Does something, and tells where it fails. */
async function tell(work) {
  failure.textContent = "";
  try {
    await work();
  } catch (error) {
    failure.textContent = error.message;
  }
}

form.addEventListener("submit", (event) => {
  event.preventDefault();
  tell(async () => {
    // What was typed stays there until the API has it.
    await addNote(new FormData(form).get("text"));
    form.reset();
    await show();
  });
});
tell(show);
