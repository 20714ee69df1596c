// The reading strip: shows what a line will record and what it corrects to while it is typed; Enter keeps it.
import { TYPED_MS, asker, later } from "./fetching.js";

export function strip(form) {
  const line = form.elements.strip;
  const out = form.querySelector(".strip-preview");
  const ask = asker((html) => { out.innerHTML = html; }, () => { out.textContent = "The store of readings is away; what you typed stays here. Asking again."; });
  const renew = later(TYPED_MS, () => {
    if (!line.value.trim()) { out.replaceChildren(); return; }
    const question = new URLSearchParams({ strip: line.value, meter: form.elements.meter.value });
    if (form.elements.wood_temperature) question.set("wood_temperature", form.elements.wood_temperature.value);
    // A long paste is shown when it is sent; an address has no room for it.
    if (line.value.length < 3000) ask(`${form.dataset.preview}?${question}`);
  });
  form.addEventListener("input", renew);
  // A tag that is offered goes in front of the numbers.
  out.addEventListener("click", (event) => {
    const offered = event.target.closest("[data-tag]");
    if (!offered || "lines" in form.dataset) return;
    line.value = `${offered.dataset.tag} ${line.value.trim()}`;
    line.focus();
    form.dispatchEvent(new Event("input"));
    event.preventDefault();
  });
  line.addEventListener("keydown", (event) => {
    if (event.key === "Escape") { line.blur(); if (!("lines" in form.dataset)) out.replaceChildren(); }
  });
}
