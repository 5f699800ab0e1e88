import assert from "node:assert/strict";
import { once } from "node:events";
import { createServer } from "node:http";
import { mkdtemp, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import path from "node:path";
import { test } from "node:test";

import { findBrokenLinks } from "../tools/links.js";
import { createPageServer } from "../tools/serve.js";

async function start(context, server) {
  server.listen(0, "127.0.0.1");
  await once(server, "listening");
  context.after(() => {
    server.close();
    server.closeAllConnections();
  });
  return `http://127.0.0.1:${server.address().port}`;
}

test("every link leads somewhere", async (context) => {
  assert.deepEqual(await findBrokenLinks("pages"), []);
  const folder = await mkdtemp(path.join(tmpdir(), "pages-"));
  context.after(() => rm(folder, { recursive: true }));
  await writeFile(path.join(folder, "ä b.html"), '<a href="gone">x</a><a href="/%C3%A4%20b">y</a>');
  assert.deepEqual(await findBrokenLinks(folder), ["ä b.html: gone leads nowhere"]);
});

test("pages are shown, and nothing else", async (context) => {
  const address = await start(context, createPageServer("pages", "http://127.0.0.1:1"));
  for (const [asked, status, type] of [
    ["/", 200, "text/html"],
    ["/missing", 200, "text/html"],
    ["/style.css", 200, "text/css"],
    ["/gone", 404, "text/html"],
    ["/%2e%2e/package.json", 404, "text/html"],
    ["/..%2fpackage.json", 404, "text/html"],
    ["/%ff", 404, "text/html"],
    ["/api/notes", 502, null],
  ]) {
    const answer = await fetch(address + asked);
    assert.equal(answer.status, status, asked);
    assert.equal(answer.headers.get("Content-Type"), type, asked);
  }
});

test("requests below /api reach the API without it", async (context) => {
  const api = createServer((request, response) => {
    response.setHeader("X-Path", request.url);
    request.pipe(response);
  });
  const address = await start(context, createPageServer("pages", await start(context, api)));
  const answer = await fetch(`${address}/api/notes?after=1`, { method: "POST", body: "a note" });
  assert.equal(answer.headers.get("X-Path"), "/notes?after=1");
  assert.equal(await answer.text(), "a note");
});
