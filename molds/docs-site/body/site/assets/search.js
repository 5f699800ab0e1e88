// Search without a server: the index of this language is fetched once, when the user types.

const { up, nothing } = document.currentScript.dataset;
const form = document.querySelector("form[role=search]");
const field = form.querySelector("input");
let pages;

form.addEventListener("submit", (event) => event.preventDefault());
field.addEventListener("input", async () => {
  pages ??= await (await fetch(`${up}search.json`)).json();
  const words = field.value.toLowerCase().split(/\s+/).filter(Boolean);
  const found = pages.filter((page) => words.every((word) => page.text.includes(word)));
  const rows = found.slice(0, 10).map((page) => {
    const link = document.createElement("a");
    link.href = up + page.path;
    link.textContent = page.title;
    return link;
  });
  const shown = words.length === 0 ? [] : rows.length > 0 ? rows : [nothing];
  form.querySelector("ul").replaceChildren(
    ...shown.map((row) => {
      const item = document.createElement("li");
      item.append(row);
      return item;
    }),
  );
});
