// The module of every page inside a workshop: wires up the widgets that are on it. Pages read without it.
import { wire } from "./asking.js";
import { strip } from "./strip.js";
import { board } from "./board.js";
import { log } from "./log.js";
import { keys } from "./keys.js";
import { find } from "./find.js";
import { opens } from "./open.js";
import { typed } from "./typed.js";

wire("main[data-typed]", typed);
wire("form[data-strip]", strip);
wire("form[data-find]", find);
wire("[data-board]", board);
wire("[data-opens]", opens);
wire("form[data-section]", log);
wire("form[data-submit]", (form) => form.addEventListener("change", () => form.requestSubmit()));
wire("[data-all]", (box) => {
  box.hidden = false;
  box.addEventListener("change", () => box.closest("form").querySelectorAll("[name=piece]").forEach((one) => { one.checked = box.checked; }));
});
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
keys();
