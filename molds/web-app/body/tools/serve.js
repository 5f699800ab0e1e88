// Shows a folder of pages, and passes requests below /api on: node tools/serve.js FOLDER
//
// It is for one's own machine: a web server shows the pages to others.

import { createReadStream } from "node:fs";
import { stat } from "node:fs/promises";
import { createServer, request as ask } from "node:http";
import { request as askSecurely } from "node:https";
import path from "node:path";

const types = {
  ".css": "text/css",
  ".html": "text/html",
  ".js": "text/javascript",
  ".json": "application/json",
  ".png": "image/png",
  ".svg": "image/svg+xml",
  ".webp": "image/webp",
};

/** Gives a server of a folder's files, before an API. */
export function createPageServer(folder, api) {
  return createServer(async (request, response) => {
    const url = URL.parse(request.url, "http://here");
    if (url?.pathname.startsWith("/api/")) {
      passOn(request, response, api);
      return;
    }
    const file = url && (await findFile(path.resolve(folder), url.pathname));
    const missing = path.join(folder, "missing.html");
    response.writeHead(file ? 200 : 404, {
      "Content-Type": types[path.extname(file ?? missing)] ?? "application/octet-stream",
      "Cache-Control": "no-cache",
    });
    createReadStream(file ?? missing)
      .on("error", () => response.destroy())
      .pipe(response);
  });
}

async function findFile(folder, pathname) {
  let file;
  try {
    file = path.join(folder, decodeURIComponent(pathname));
  } catch {
    return undefined;
  }
  if (file !== folder && !file.startsWith(folder + path.sep)) {
    return undefined;
  }
  const files = [file, `${file}.html`, path.join(file, "index.html")];
  const found = await Promise.all(
    files.map((one) =>
      stat(one).then(
        (entry) => entry.isFile(),
        () => false,
      ),
    ),
  );
  return files.find((_, at) => found[at]);
}

function passOn(request, response, api) {
  const target = new URL(request.url.replace("/api", ""), api);
  const { method, headers } = request;
  const passed = (target.protocol === "https:" ? askSecurely : ask)(
    target,
    { method, headers: { ...headers, host: target.host } },
    (answer) => {
      response.writeHead(answer.statusCode, answer.headers);
      answer.pipe(response);
    },
  );
  passed.on("error", () => {
    if (response.headersSent) {
      response.destroy();
    } else {
      response.writeHead(502).end();
    }
  });
  request.pipe(passed);
}

if (import.meta.filename === process.argv[1]) {
  const { API = "{= api =}", HOST = "127.0.0.1", PORT = "{= port =}" } = process.env;
  const server = createPageServer(process.argv[2] ?? "pages", API);
  server.listen(Number(PORT), HOST, () => console.log(`http://${HOST}:${server.address().port}/`));
  for (const signal of ["SIGINT", "SIGTERM"]) {
    process.once(signal, () => {
      server.close();
      server.closeAllConnections();
    });
  }
}
