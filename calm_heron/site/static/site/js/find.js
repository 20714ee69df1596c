// The field at the head of the rail: what answers is listed as it is typed; the arrows go through it, Enter opens, Escape leaves.
import { TYPED_MS, asker, later } from "./fetching.js";

export function find(form) {
  const field = form.elements.q;
  const list = form.querySelector("[data-found]");
  const close = () => { list.hidden = true; };
  const ask = asker((html) => {
    list.innerHTML = html;
    list.hidden = !html.trim() || !form.contains(document.activeElement);
  });
  const renew = later(TYPED_MS, () => {
    if (field.value.trim()) ask(`${form.action}?${new URLSearchParams({ q: field.value, fragment: "found" })}`);
    else close();
  });
  field.addEventListener("input", renew);
  form.addEventListener("keydown", (event) => {
    const stops = [field, ...list.querySelectorAll("a")];
    const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (event.key === "Escape") { close(); field.value = ""; field.focus(); }
    if (!step || list.hidden) return;
    const next = stops[stops.indexOf(document.activeElement) + step];
    if (next) { next.focus(); event.preventDefault(); }
  });
  form.addEventListener("focusout", (event) => { if (!form.contains(event.relatedTarget)) close(); });
}
