// One way of asking the server for a fragment. The newest question wins: it puts an older one off, or, where the asker is patient,
// waits for its answer, so that a slider that is still moving is answered all along. A server that is away is asked again.
export function asker(show, away = () => {}, { patient = false } = {}) {
  let current = null;
  let next = null;
  return async function ask(url) {
    if (patient && current) { next = url; return; }
    current?.abort();
    const mine = (current = new AbortController());
    let again = null;
    try {
      const answer = await fetch(url, { signal: mine.signal, credentials: "same-origin" });
      if (answer.ok || answer.status === 422) show(await answer.text());
      else { away(); if (answer.status === 503) again = url; }
    } catch (trouble) {
      if (trouble.name !== "AbortError") { away(); again = url; }
    }
    if (mine !== current) return;
    current = null;
    if (next) { const newest = next; next = null; ask(newest); }
    else if (again) setTimeout(() => current ?? ask(again), 2000);
  };
}

export function later(wait, act) {
  let timer;
  return (...values) => { clearTimeout(timer); timer = setTimeout(() => act(...values), wait); };
}

// So long a pause says that what is typed is whole.
export const TYPED_MS = 400;

export function isTyped(field) {
  return field instanceof HTMLTextAreaElement || (field instanceof HTMLInputElement && !["checkbox", "radio", "range", "date"].includes(field.type));
}
