// The log's end: drag the board about, and the form's pith follows; the server draws what it would become, while it is dragged.
const MILLIMETRES = 1000;
const PAUSE = 110; // between two questions while the board moves

export function log(form) {
  const drawing = form.querySelector("[data-log]");
  const board = drawing.querySelector("[data-held]");
  const region = form.querySelector("[data-region]");
  const metres = Number(drawing.dataset.metres), limit = Number(drawing.dataset.limit);
  const centre = drawing.viewBox.baseVal.width / 2;
  const size = { w: board.width.baseVal.value, h: board.height.baseVal.value };
  let pith = { x: Number(drawing.dataset.x), y: Number(drawing.dataset.y) };
  let held = null;
  let asked = 0;

  // The pith as seen from the middle of the board; the drawing's y runs down.
  const place = (x, y) => {
    const out = Math.min(1, limit / (Math.hypot(x, y) || 1));
    pith = { x: x * out, y: y * out };
    board.setAttribute("x", centre - pith.x / metres - size.w / 2);
    board.setAttribute("y", centre + pith.y / metres - size.h / 2);
  };
  const ask = () => {
    asked = performance.now();
    form.elements.pith_x.value = `${(pith.x * MILLIMETRES).toFixed(1)} mm`;
    form.elements.pith_y.value = `${(pith.y * MILLIMETRES).toFixed(1)} mm`;
    form.dispatchEvent(new Event("input", { bubbles: true }));
  };
  const point = (event) => new DOMPoint(event.clientX, event.clientY).matrixTransform(drawing.getScreenCTM().inverse());

  drawing.addEventListener("pointerdown", (event) => {
    held = { from: point(event), ...pith };
    drawing.setPointerCapture(event.pointerId);
    drawing.focus({ preventScroll: true });
    event.preventDefault();
  });
  drawing.addEventListener("pointermove", (event) => {
    if (!held) return;
    const to = point(event);
    place(held.x - (to.x - held.from.x) * metres, held.y + (to.y - held.from.y) * metres);
    if (performance.now() - asked > PAUSE) ask();
  });
  const drop = () => { if (held) { held = null; ask(); } };
  drawing.addEventListener("pointerup", drop);
  drawing.addEventListener("pointercancel", drop);

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
    const keep = document.querySelector("[data-keep-grain]");
    if (keep) { keep.elements.ring_angle_deg.value = moved.dataset.angle; keep.elements.pith_distance_m.value = moved.dataset.distance; }
    // Numbers typed into the form move the board, too; the hand that drags it is not contradicted.
    if (!held) place(Number(moved.dataset.x), Number(moved.dataset.y));
  });
}
