// Every page's module: wires up the widgets that are on it. Pages read without it.
import { live } from "./live.js";
import { strip } from "./strip.js";
import { board } from "./board.js";
import { log } from "./log.js";
import { species } from "./species.js";
import { keys } from "./keys.js";
import { slides } from "./slide.js";

const wire = (selector, widget) => document.querySelectorAll(selector).forEach(widget);

wire("form[data-live]", live);
wire("form[data-strip]", strip);
wire("[data-board]", board);
wire("form[data-section]", log);
wire("[data-species]", species);
wire("form[data-slides]", slides);
wire("form[data-submit]", (form) => form.addEventListener("change", () => form.requestSubmit()));
wire("[data-all]", (box) => {
  box.hidden = false;
  box.addEventListener("change", () => box.closest("form").querySelectorAll("[name=piece]").forEach((one) => { one.checked = box.checked; }));
});
wire("[data-quiet]", (button) => { button.hidden = true; });
wire("[data-select]", (input) => input.addEventListener("focus", () => input.select()));
wire("form[data-kinds]", (form) => {
  const show = () => form.querySelectorAll("[data-kind]").forEach((part) => { part.hidden = !part.dataset.kind.split(" ").includes(form.elements.kind.value); });
  form.addEventListener("change", show);
  show();
});
// A thread of the drawing and its line in the list are one: what points at either lights up both.
const strands = (event) => {
  const tag = event.target.closest?.("[data-strand]")?.dataset.strand;
  document.querySelectorAll(".lit").forEach((one) => one.classList.remove("lit"));
  if (tag) document.querySelectorAll(`[data-strand="${CSS.escape(tag)}"]`).forEach((one) => one.classList.add("lit"));
};
if (document.querySelector("[data-strand]")) for (const kind of ["pointerover", "focusin"]) document.addEventListener(kind, strands);
// A new workshop keeps the time of the device it is founded on.
wire("[data-zone]", (field) => { field.value = Intl.DateTimeFormat().resolvedOptions().timeZone; });
// Fields that another one's choice asks for: data-when="home=typed", or any of several.
wire("[data-when]", (part) => {
  const form = part.closest("form");
  const [name, values] = part.dataset.when.split("=");
  const show = () => { part.hidden = !values.split(" ").includes(form.elements[name].value); };
  form.addEventListener("input", show);
  show();
});
// Keyboards with figures have no space: this makes one, for the next number.
wire("[data-space]", (button) => {
  button.hidden = false;
  button.addEventListener("click", () => {
    const field = button.parentElement.querySelector("input");
    field.value = `${field.value.trim()} `;
    field.focus();
  });
});
// A form that comes back with something wrong is shown where it is wrong.
document.querySelector("main [aria-invalid=true]")?.focus();
keys();
