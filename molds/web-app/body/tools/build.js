// Builds the site into dist/: a file for each page{= if prerendered =}, with what it shows in it{= end =}.

// {= if bundled =}
import { mkdir, readFile, writeFile } from "node:fs/promises";
import { build } from "vite";
// {= else =}
import { cp, mkdir, readFile, rm, writeFile } from "node:fs/promises";
// {= end =}

const TOP = new URL("../", import.meta.url);
const DIST = new URL("dist/", TOP);

// {= if bundled =}
const quiet = { root: TOP.pathname, logLevel: "warn" };
await build(quiet);
await build({ ...quiet, build: { ssr: "src/render.{= ext =}", outDir: "build/render" } });
const { pages{= if prerendered =}, render{= end =} } = await import(new URL("build/render/render.js", TOP));
const template = await readFile(new URL("index.html", DIST), "utf8");
// {= else =}
const { pages{= if prerendered =}, render{= end =} } = await import(new URL("src/render.js", TOP));
const template = await readFile(new URL("index.html", TOP), "utf8");
await rm(DIST, { recursive: true, force: true });
await cp(new URL("src", TOP), new URL("src", DIST), { recursive: true });
// {= end =}

for (const page of pages) {
  const folder = new URL(`.${page.path}/`, DIST);
  // {= if prerendered =}
  const content = await render(page);
  // {= end =}
  const titled = template.replace(/<title>.*<\/title>/s, () => `<title>${escape(page.title)}</title>`);
  const text = titled.replace("<!--page-->", {= if prerendered =}() => content{= else =}""{= end =});
  await mkdir(folder, { recursive: true });
  await writeFile(new URL("index.html", folder), text);
}
console.log(`built ${pages.length === 1 ? "1 page" : `${pages.length} pages`} in dist/`);

function escape(text) {
  return text.replaceAll("&", "&amp;").replaceAll("<", "&lt;");
}
