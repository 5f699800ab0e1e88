// Copies the pages into dist/, once every link is checked; with --check, nothing is copied.

import { cp, rm } from "node:fs/promises";

import { findBrokenLinks } from "./links.js";

const broken = await findBrokenLinks("pages");
for (const line of broken) {
  console.error(line);
}
if (broken.length > 0) {
  process.exit(1);
}
if (!process.argv.includes("--check")) {
  await rm("dist", { recursive: true, force: true });
  await cp("pages", "dist", { recursive: true });
  console.log("The pages are in dist/.");
}
