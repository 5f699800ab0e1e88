// The first page, clicked through in a document without a browser.

import assert from "node:assert/strict";
import { readFile } from "node:fs/promises";
import { after, before, test } from "node:test";
import { GlobalRegistrator } from "@happy-dom/global-registrator";

before(async () => {
  GlobalRegistrator.register({ url: "http://localhost/" });
  document.body.innerHTML = '<div id="app"></div>';
  // The script that the built page names.
  const dist = new URL("../dist/", import.meta.url);
  const page = await readFile(new URL("index.html", dist), "utf8");
  await import(new URL(`.${page.match(/<script[^>]*src="([^"]+)"/)[1]}`, dist));
});

after(() => GlobalRegistrator.unregister());

/** Waits until something is so. */
async function until(condition) {
  for (let turn = 0; turn < 200; turn++) {
    if (condition()) return;
    await new Promise((done) => setTimeout(done, 10));
  }
  assert.fail(`it never came: ${document.body.innerHTML}`);
}

test("a note is added", async () => {
  await until(() => document.querySelectorAll("li").length === 1);
  const input = document.querySelector("input");
  // A view library listens to the setter of the element itself.
  Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value").set.call(input, "<b>Buy paint</b>");
  input.dispatchEvent(new Event("input", { bubbles: true }));
  document.querySelector("form").dispatchEvent(new Event("submit", { bubbles: true, cancelable: true }));
  await until(() => document.querySelectorAll("li").length === 2);
  assert.equal(document.querySelectorAll("li")[1].textContent, "<b>Buy paint</b>");
});
