import assert from "node:assert/strict";
import { test } from "node:test";

import { addNote, listNotes } from "../pages/notes.js";

function answer(context, status, value) {
  return context.mock.method(globalThis, "fetch", async () => Response.json(value, { status }));
}

test("notes are asked of the API", async (context) => {
  const fetched = answer(context, 200, [{ id: 1, text: "Buy paint" }]);
  assert.deepEqual(await listNotes(), [{ id: 1, text: "Buy paint" }]);
  await addNote("Mend the net");
  const [, [address, options]] = fetched.mock.calls.map((call) => call.arguments);
  assert.equal(address, "/api/notes");
  assert.equal(options.body, '{"text":"Mend the net"}');
});

test("failures are told", async (context) => {
  answer(context, 503, {});
  await assert.rejects(listNotes(), /503/);
  context.mock.method(globalThis, "fetch", () => Promise.reject(new Error("a secret")));
  await assert.rejects(listNotes(), /cannot be reached/);
});
