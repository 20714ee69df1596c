// A form whose answer moves at once: <form data-live="name"> renews [data-region="name"] with the server's fragment of that name.
import { TYPED_MS, asker, isTyped, later } from "./fetching.js";

const UNASKED = ["csrfmiddlewaretoken", "once", "pasted"];

// What is wrong is said beside its field, and no longer once it is right.
function complain(form, region) {
  for (const line of form.querySelectorAll(".wrong")) line.remove();
  for (const field of form.querySelectorAll("[aria-invalid]")) { field.removeAttribute("aria-invalid"); field.removeAttribute("aria-describedby"); }
  for (const line of region.querySelectorAll("[data-for]")) {
    const field = document.getElementById(line.dataset.for);
    const place = field?.closest(".field");
    if (!place) continue;
    line.id = `${field.id}_error`;
    place.append(line);
    field.setAttribute("aria-invalid", "true");
    field.setAttribute("aria-describedby", line.id);
  }
}

// One short line for who cannot see the answer move, once it has come to rest.
const said = later(700, (text) => {
  const line = document.querySelector("#said");
  const short = text?.replace(/\s+/g, " ").trim();
  if (line && short && line.textContent !== short) line.textContent = short;
});

export function live(form) {
  const name = form.dataset.live;
  const region = document.querySelector(`[data-region="${name}"]`);
  const ask = asker((html) => {
    const open = region.querySelector("details.how")?.open;
    // What had the focus has it again, where it is still there: a month that was chosen, an offer.
    const held = region.contains(document.activeElement) ? document.activeElement.dataset.value ?? document.activeElement.id : null;
    region.innerHTML = html;
    if (held) (region.querySelector(`[data-value="${CSS.escape(held)}"]`) ?? document.getElementById(held))?.focus();
    complain(form, region);
    said(region.querySelector("[data-said], .figure, .answer-word")?.textContent);
    const how = region.querySelector("details.how");
    if (how && open) how.open = true;
    region.dispatchEvent(new CustomEvent("renewed", { bubbles: true }));
  }, undefined, { patient: true });
  // A button that was pressed says something, too, until another of its name is.
  const pressed = new Map();
  const typed = () => new URLSearchParams([...new FormData(form), ...pressed].filter(([field, value]) => typeof value === "string" && !UNASKED.includes(field)));
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
  // A figure is waited for until it is whole: “1” on the way to “12” is no answer. What is chosen or slides is asked at once.
  const calm = later(TYPED_MS, renew);
  const chosen = later(60, renew);
  form.addEventListener("input", carry);
  form.addEventListener("input", (event) => (event.target.type === "range" || event.detail?.slid ? renew() : isTyped(event.target) ? calm() : chosen()));
  if (form.method === "get") form.addEventListener("submit", (event) => {
    event.preventDefault();
    if (event.submitter?.name) pressed.set(event.submitter.name, event.submitter.value);
    renew();
  });
}
