// Every page, as it is shown and as it is built.

import assert from "node:assert/strict";
import { readFile, stat } from "node:fs/promises";
import { test } from "node:test";
import { pages, render } from "{= if bundled =}../build/render/render.js{= else =}../src/render.js{= end =}";

const DIST = new URL("../dist/", import.meta.url);
const built = (page) => readFile(new URL(`.${page.path}/index.html`, DIST), "utf8");

test("pages have addresses of their own", () => {
  const paths = pages.map(({ path }) => path);
  assert.equal(new Set(paths).size, paths.length);
  assert.ok(paths.includes("/"));
  for (const path of paths) assert.match(path, /^\/([a-z0-9-]+(\/[a-z0-9-]+)*)?$/);
});

test("every page shows one heading", async () => {
  for (const page of pages) {
    const html = await render(page);
    assert.equal(html.match(/<h1/g)?.length, 1, page.path);
  }
});

test("every page is built, with its title", async () => {
  for (const page of pages) {
    const text = await built(page);
    const title = page.title.replaceAll("&", "&amp;").replaceAll("<", "&lt;");
    assert.ok(text.includes(`<title>${title}</title>`), page.path);
    // {= if prerendered =}
    assert.ok(text.includes("<h1"), page.path);
    // {= else =}
    assert.ok(!text.includes("<h1"), page.path);
    // {= end =}
  }
});

test("every link leads somewhere", async () => {
  for (const page of pages) {
    const html = (await built(page)) + (await render(page));
    for (const [, link] of html.matchAll(/(?:href|src)="(\/[^"]*)"/g)) {
      assert.ok(await stat(new URL(`.${link}`, DIST)), `${page.path}: ${link}`);
    }
  }
});
