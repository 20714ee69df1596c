// A form whose answer moves at once: <form data-live="name"> renews [data-region="name"] with the server's fragment of that name.
import { asker, later } from "./fetching.js";

export function live(form) {
  const name = form.dataset.live;
  const region = document.querySelector(`[data-region="${name}"]`);
  const ask = asker((html) => {
    const open = region.querySelector("details.how")?.open;
    region.innerHTML = html;
    const how = region.querySelector("details.how");
    if (how && open) how.open = true;
    region.dispatchEvent(new CustomEvent("renewed", { bubbles: true }));
  }, undefined, { patient: true });
  const renew = () => {
    const question = new URLSearchParams(new FormData(form));
    history.replaceState(null, "", `?${question}`);
    for (const carrier of document.querySelectorAll("form[data-carries]"))
      for (const field of carrier.dataset.carries.split(" ")) if (question.has(field)) carrier.elements[field].value = question.get(field);
    question.set("fragment", name);
    ask(`?${question}`);
  };
  // What is typed is waited for; what slides is asked at once.
  const calm = later(90, renew);
  form.addEventListener("input", (event) => (event.target.type === "range" ? renew() : calm()));
  form.addEventListener("submit", (event) => { event.preventDefault(); renew(); });
}
