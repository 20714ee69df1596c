// A form whose answer moves at once: <form data-live="name"> renews [data-region="name"] with the server's fragment of that name.
import { asker, later } from "./fetching.js";

const UNASKED = ["csrfmiddlewaretoken", "once", "pasted"];

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
  const typed = () => new URLSearchParams([...new FormData(form)].filter(([field, value]) => typeof value === "string" && !UNASKED.includes(field)));
  // What another form keeps of this one is what stands here now, answered or not.
  const carry = () => {
    const question = typed();
    for (const carrier of document.querySelectorAll("form[data-carries]"))
      for (const field of carrier.dataset.carries.split(" ")) if (question.has(field)) carrier.elements[field].value = question.get(field);
  };
  const renew = () => {
    const question = typed();
    // A form that is to be kept is only drawn while it is typed: its address stays.
    if (form.method === "get") history.replaceState(null, "", `?${question}`);
    question.set("fragment", name);
    ask(`?${question}`);
  };
  // What is typed is waited for; what slides is asked at once.
  const calm = later(90, renew);
  form.addEventListener("input", carry);
  form.addEventListener("input", (event) => (event.target.type === "range" ? renew() : calm()));
  if (form.method === "get") form.addEventListener("submit", (event) => { event.preventDefault(); renew(); });
}
