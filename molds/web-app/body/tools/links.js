// Finds links between pages that lead nowhere.

import { existsSync } from "node:fs";
import { readFile, readdir } from "node:fs/promises";
import path from "node:path";

/** Gives a line for each address in the pages of a folder that leads nowhere. */
export async function findBrokenLinks(folder) {
  const files = await readdir(folder, { recursive: true });
  const pages = files.filter((file) => file.endsWith(".html"));
  const found = await Promise.all(
    pages.map(async (page) => {
      const text = await readFile(path.join(folder, page), "utf8");
      const addresses = [...text.matchAll(/\s(?:href|src)="([^"]*)"/g)].map(
        ([, address]) => address,
      );
      const isBroken = (address) => !leadsSomewhere(folder, page, address);
      return addresses.filter(isBroken).map((address) => `${page}: ${address} leads nowhere`);
    }),
  );
  return found.flat();
}

function leadsSomewhere(folder, page, address) {
  const here = new URL(encodeURI(page.replaceAll(path.sep, "/")), "http://here/");
  const there = URL.parse(address, here);
  if (!there || there.host !== here.host) {
    return there !== null;
  }
  const file = path.join(folder, decodeURIComponent(there.pathname));
  return [file, `${file}.html`, path.join(file, "index.html")].some(
    (one) => existsSync(one) && path.extname(one) !== "",
  );
}
