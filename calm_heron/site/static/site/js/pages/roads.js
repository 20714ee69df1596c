// Marks on a road's thread where wood is moved on: dragged up or down, or moved with the arrow keys, they say at which moisture.
import { presses } from "../presses.js";

const LEAST = 8;
const MOST = 60;
const SETTLED = 1000; // after the last press, what is drawn is what stands

function moisture(drawing, y) {
  const levels = drawing.dataset.levels.split(" ").map((pair) => pair.split(",").map(Number));
  for (let at = 1; at < levels.length; at++) {
    const [above, below] = [levels[at - 1], levels[at]];
    if (y <= below[0] || at === levels.length - 1) return above[1] + ((y - above[0]) / (below[0] - above[0])) * (below[1] - above[1]);
  }
  return LEAST;
}

function marks(form) {
  const region = document.querySelector(`[data-region="${form.dataset.live}"]`);
  const set = (field, percent) => {
    // A day that was named would overrule it.
    form.elements.moved_on.value = "";
    form.elements[field].value = String(Math.round(Math.min(MOST, Math.max(LEAST, percent))));
    form.dispatchEvent(new CustomEvent("input", { bubbles: true, detail: { slid: true } }));
  };
  let held = null;
  const pressedTo = presses(SETTLED, () => new Map());
  const follow = (event) => {
    const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(held.drawing.getScreenCTM().inverse());
    held.mark.setAttribute("cy", point.y);
    held.percent = moisture(held.drawing, point.y);
  };
  region.addEventListener("pointerdown", (event) => {
    const mark = event.target.closest("[data-moves]");
    if (!mark) return;
    event.preventDefault();
    held = { mark, drawing: mark.ownerSVGElement, percent: null };
    mark.setPointerCapture(event.pointerId);
  });
  region.addEventListener("pointermove", (event) => { if (held) follow(event); });
  // The answer renews the drawing, and with it the mark that is held: it is asked once it is let go.
  const drop = () => {
    if (held && held.percent !== null) set(held.mark.dataset.moves, held.percent);
    held = null;
  };
  region.addEventListener("pointerup", drop);
  region.addEventListener("pointercancel", drop);
  region.addEventListener("keydown", (event) => {
    const mark = event.target.closest?.("[data-moves]");
    const step = { ArrowUp: 1, ArrowDown: -1, ArrowRight: 1, ArrowLeft: -1, PageUp: 5, PageDown: -5 }[event.key];
    if (!mark || !step) return;
    event.preventDefault();
    const field = mark.dataset.moves;
    const pressed = pressedTo();
    pressed.set(field, Math.min(MOST, Math.max(LEAST, (pressed.get(field) ?? Number(mark.getAttribute("aria-valuenow"))) + step)));
    set(field, pressed.get(field));
  });
}

document.querySelectorAll("form#f-question").forEach(marks);
