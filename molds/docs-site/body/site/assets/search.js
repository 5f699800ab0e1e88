// Search without a server: the index of this language is fetched once, when the user types.

const script = document.currentScript;
const field = document.getElementById("search");
const found = document.getElementById("found");
let pages;

field.form.addEventListener("submit", (event) => event.preventDefault());
field.addEventListener("input", async () => {
  pages ??= await (await fetch(script.dataset.index)).json();
  const words = field.value.toLowerCase().split(/\s+/).filter(Boolean);
  const matching = words.length === 0 ? [] : pages.filter((page) => words.every((word) => page.text.includes(word)));
  found.replaceChildren(
    ...matching.slice(0, 10).map((page) => {
      const link = document.createElement("a");
      link.href = page.path;
      link.textContent = page.title;
      const item = document.createElement("li");
      item.append(link);
      return item;
    }),
  );
});
