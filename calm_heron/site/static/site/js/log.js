// The log's end: drag the board about, and the form's pith follows; the server draws what it would become, while it is dragged.
const MILLIMETRES = 1000;
const PAUSE = 110; // between two questions while the board moves
const SETTLED = 1000; // after the last question, an answer may be to an older one

export function log(form) {
  const drawing = form.querySelector("[data-log]");
  const board = drawing.querySelector("[data-held]");
  const region = form.querySelector("[data-region]");
  const metres = Number(drawing.dataset.metres), limit = Number(drawing.dataset.limit);
  const drawn = { x: Number(drawing.dataset.x), y: Number(drawing.dataset.y) };
  let pith = { ...drawn };
  let held = null;
  let asked = 0;
  let waiting = null;

  // The pith as seen from the middle of the board; the drawing's y runs down.
  const place = (x, y) => {
    const out = Math.min(1, limit / (Math.hypot(x, y) || 1));
    pith = { x: x * out, y: y * out };
    board.setAttribute("transform", `translate(${(drawn.x - pith.x) / metres} ${(pith.y - drawn.y) / metres})`);
  };
  const ask = () => {
    asked = performance.now();
    form.elements.pith_x.value = `${(pith.x * MILLIMETRES).toFixed(1)} mm`;
    form.elements.pith_y.value = `${(pith.y * MILLIMETRES).toFixed(1)} mm`;
    form.dispatchEvent(new Event("input", { bubbles: true }));
  };
  const point = (event) => new DOMPoint(event.clientX, event.clientY).matrixTransform(drawing.getScreenCTM().inverse());

  board.addEventListener("pointerdown", (event) => {
    held = { from: point(event), ...pith };
    board.setPointerCapture(event.pointerId);
    drawing.focus({ preventScroll: true });
    event.preventDefault();
  });
  board.addEventListener("pointermove", (event) => {
    if (!held) return;
    const to = point(event);
    place(held.x - (to.x - held.from.x) * metres, held.y + (to.y - held.from.y) * metres);
    clearTimeout(waiting);
    if (performance.now() - asked > PAUSE) ask();
    // A hand that holds still is answered for where it stopped.
    else waiting = setTimeout(() => { if (held) ask(); }, PAUSE);
  });
  const drop = () => { if (held) { held = null; ask(); } };
  board.addEventListener("pointerup", drop);
  board.addEventListener("pointercancel", drop);

  drawing.addEventListener("keydown", (event) => {
    const step = { ArrowLeft: [1, 0], ArrowRight: [-1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (!step) return;
    const by = event.shiftKey ? 0.025 : 0.005;
    place(pith.x + step[0] * by, pith.y + step[1] * by);
    ask();
    event.preventDefault();
  });
  region.addEventListener("renewed", () => {
    const moved = region.querySelector("[data-moved]");
    // Numbers typed into the form move the board, too; the hand that drags it, or has just let go, is not contradicted.
    if (!held && performance.now() - asked > SETTLED) place(Number(moved.dataset.x), Number(moved.dataset.y));
  });
}
