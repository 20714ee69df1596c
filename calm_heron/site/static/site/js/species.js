// The species search: what fits is offered under the field while it is typed.
import { asker, later } from "./fetching.js";

export function species(part) {
  const field = part.querySelector("input");
  const found = part.querySelector("[data-found]");
  const ask = asker((html) => { found.innerHTML = html; });
  field.setAttribute("autocomplete", "off");
  field.addEventListener("input", later(100, () => ask(`${part.dataset.species}?species_key=${encodeURIComponent(field.value)}`)));
  found.addEventListener("click", (event) => {
    const chosen = event.target.closest("button");
    if (!chosen) return;
    field.value = chosen.firstChild.textContent.trim();
    found.replaceChildren();
    field.dispatchEvent(new Event("change", { bubbles: true }));
    // The answer is asked anew, without searching for what was just chosen.
    field.form?.dispatchEvent(new Event("input", { bubbles: true }));
    document.querySelector("[name=thickness_m]")?.focus();
  });
}
