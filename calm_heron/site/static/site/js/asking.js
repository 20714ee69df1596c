// What every page needs that asks something, of members and of strangers. Pages read without it.
import { live } from "./live.js";
import { species } from "./species.js";
import { slides } from "./slide.js";

export const wire = (selector, widget) => document.querySelectorAll(selector).forEach(widget);

wire("form[data-live]", live);
wire("[data-species]", species);
wire("form[data-slides]", slides);
wire("[data-quiet]", (button) => { button.hidden = true; });
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
// Whoever signs out leaves nothing of what was typed on the device.
wire("form[data-leaves]", (form) => form.addEventListener("submit", () => {
  try { Object.keys(localStorage).filter((key) => key.startsWith("typed:")).forEach((key) => localStorage.removeItem(key)); } catch { /* nothing is kept here */ }
}));
// A form that comes back with something wrong is shown where it is wrong.
document.querySelector("main [aria-invalid=true]")?.focus();
// One page stays on the device for where there is no network (pocket/worker.js). Browsers do that over HTTPS and on the machine itself only.
if (window.isSecureContext && navigator.serviceWorker) window.addEventListener("load", () => navigator.serviceWorker.register("/sw.js").catch(() => {}));
