// Serves dist/ as any web server would.{= if not bundled =} With --watch it serves the sources, and reloads the page whenever one changes.{= end =}

{= if not bundled =}
import { watch } from "node:fs";
{= end =}
import { readFile, stat } from "node:fs/promises";
import { createServer } from "node:http";
import { extname } from "node:path";

const TYPES = {
  ".html": "text/html; charset=utf-8",
  ".js": "text/javascript; charset=utf-8",
  ".css": "text/css; charset=utf-8",
  ".json": "application/json",
  ".svg": "image/svg+xml",
  ".png": "image/png",
  ".jpg": "image/jpeg",
  ".woff2": "font/woff2",
};
const HOST = process.env.HOST ?? "127.0.0.1";
const PORT = Number(process.env.PORT ?? {= port =});
// {= if not bundled =}
const WATCH = process.argv.includes("--watch");
const ROOT = new URL(WATCH ? "../" : "../dist/", import.meta.url);
const RELOAD = '<script>new EventSource("/-reload").onmessage = () => location.reload();</script>';
const waiting = new Set();
// {= else =}
const ROOT = new URL("../dist/", import.meta.url);
// {= end =}

const server = createServer(async (request, response) => {
  const send = (status, type, body) => {
    response.writeHead(status, { "content-type": type, "cache-control": "no-cache" });
    response.end(request.method === "HEAD" ? undefined : body);
  };
  if (request.method !== "GET" && request.method !== "HEAD") return send(405, "text/plain", "only GET is served\n");
  let path;
  try {
    path = decodeURIComponent(new URL(request.url, "http://localhost").pathname);
  } catch {
    return send(400, "text/plain", "this is no address\n");
  }
  // {= if not bundled =}
  if (WATCH && path === "/-reload") {
    response.writeHead(200, { "content-type": "text/event-stream", "cache-control": "no-cache" });
    response.write(": waiting\n\n");
    waiting.add(response);
    request.on("close", () => waiting.delete(response));
    return;
  }
  // {= end =}
  const file = await found(path);
  if (!file) return send(404, "text/plain", "there is nothing here\n");
  let body = await readFile(file);
  const type = TYPES[extname(file.pathname)] ?? "application/octet-stream";
  // {= if not bundled =}
  if (WATCH && file.pathname.endsWith(".html")) body = body.toString().replace("</body>", `${RELOAD}</body>`);
  // {= end =}
  send(200, type, body);
});

/** The file of an address; none if there is none, or if it is none of the site's. */
async function found(path) {
  if (path.includes("\0") || path.split("/").some((part) => part.startsWith("."))) return undefined;
  // {= if not bundled =}
  // While it is written, every address without a file is a page.
  if (WATCH && !path.startsWith("/src/")) return new URL("index.html", ROOT);
  // {= end =}
  const wanted = new URL(`.${path.split("/").map(encodeURIComponent).join("/")}`, ROOT);
  const about = await stat(wanted).catch(() => undefined);
  if (about?.isFile()) return wanted;
  const inside = new URL(`${wanted.href.replace(/\/$/, "")}/index.html`);
  return about?.isDirectory() && (await stat(inside).catch(() => undefined))?.isFile() ? inside : undefined;
}

server.on("error", (error) => {
  console.error(`error: ${error.message}`);
  process.exit(1);
});
server.listen(PORT, HOST, () => {
  console.error(`listening on http://${HOST}:${server.address().port}`);
});
// {= if not bundled =}
if (WATCH) {
  let timer;
  const changed = () => {
    clearTimeout(timer);
    timer = setTimeout(() => waiting.forEach((response) => response.write("data: changed\n\n")), 50);
  };
  for (const place of ["index.html", "src"]) watch(new URL(place, ROOT), { recursive: true }, changed);
}
// {= end =}
for (const signal of ["SIGINT", "SIGTERM"]) {
  process.on(signal, () => {
    server.closeAllConnections();
    server.close(() => process.exit(0));
  });
}
