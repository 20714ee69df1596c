// One way of asking the server for a fragment: the newest question wins, and a server that is away is asked again.
export function asker(show, away = () => {}) {
  let current = null;
  return async function ask(url) {
    current?.abort();
    const mine = (current = new AbortController());
    try {
      const answer = await fetch(url, { signal: mine.signal, credentials: "same-origin" });
      if (answer.ok || answer.status === 422) return show(await answer.text());
      away();
      if (answer.status === 503) setTimeout(() => mine === current && ask(url), 2000);
    } catch (trouble) {
      if (trouble.name !== "AbortError") { away(); setTimeout(() => mine === current && ask(url), 2000); }
    }
  };
}

export function later(wait, act) {
  let timer;
  return (...values) => { clearTimeout(timer); timer = setTimeout(() => act(...values), wait); };
}
