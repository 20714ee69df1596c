// The log's end: drag the board about, and the form's pith follows; the server draws what it would become.
const MILLIMETRES = 1000;

export function log(form) {
  const region = form.querySelector("[data-region]");
  let held = null;

  const put = (x, y) => {
    form.elements.pith_x.value = `${(x * MILLIMETRES).toFixed(1)} mm`;
    form.elements.pith_y.value = `${(y * MILLIMETRES).toFixed(1)} mm`;
    form.dispatchEvent(new Event("input", { bubbles: true }));
  };
  const drawingOf = (event) => event.target.closest?.("[data-log]");

  region.addEventListener("pointerdown", (event) => {
    const drawing = drawingOf(event);
    if (!drawing) return;
    const board = drawing.querySelector("[data-held]");
    const inside = drawing.getScreenCTM().inverse();
    held = {
      drawing, board, inside, from: new DOMPoint(event.clientX, event.clientY).matrixTransform(inside),
      metres: Number(drawing.dataset.metres), x: Number(drawing.dataset.x), y: Number(drawing.dataset.y), limit: Number(drawing.dataset.limit),
    };
    drawing.setPointerCapture(event.pointerId);
    event.preventDefault();
  });
  region.addEventListener("pointermove", (event) => {
    if (!held) return;
    const to = new DOMPoint(event.clientX, event.clientY).matrixTransform(held.inside);
    const right = to.x - held.from.x, down = to.y - held.from.y;
    held.board.setAttribute("transform", `translate(${right} ${down})`);
    held.to = { x: held.x - right * held.metres, y: held.y + down * held.metres };
  });
  const drop = () => { if (held?.to) put(held.to.x, held.to.y); held = null; };
  region.addEventListener("pointerup", drop);
  region.addEventListener("pointercancel", drop);

  region.addEventListener("keydown", (event) => {
    const drawing = drawingOf(event);
    const step = { ArrowLeft: [1, 0], ArrowRight: [-1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (!drawing || !step) return;
    const by = event.shiftKey ? 0.025 : 0.005;
    drawing.dataset.x = Number(drawing.dataset.x) + step[0] * by;
    drawing.dataset.y = Number(drawing.dataset.y) + step[1] * by;
    put(Number(drawing.dataset.x), Number(drawing.dataset.y));
    event.preventDefault();
  });
  region.addEventListener("renewed", () => {
    const moved = region.querySelector("[data-moved]");
    const keep = document.querySelector("[data-keep-grain]");
    if (keep) { keep.elements.ring_angle_deg.value = moved.dataset.angle; keep.elements.pith_distance_m.value = moved.dataset.distance; }
    if (document.activeElement === document.body) region.querySelector("[data-log]")?.focus({ preventScroll: true });
  });
}
