// What the pages ask of the API about notes.

async function request(path, options = {}) {
  const signal = AbortSignal.timeout(10_000);
  const answer = await fetch(`/api${path}`, { signal, ...options }).catch(() => {
    throw new Error("The service cannot be reached.");
  });
  if (!answer.ok) {
    throw new Error(`The service answered with status ${answer.status}.`);
  }
  return answer.json();
}

export function listNotes() {
  return request("/notes");
}

export function addNote(text) {
  const headers = { "Content-Type": "application/json" };
  return request("/notes", { method: "POST", headers, body: JSON.stringify({ text }) });
}
