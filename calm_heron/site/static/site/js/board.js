// The board map as a place to tap: a tap, or the arrow keys, fill in where the reading was taken.
const MILLIMETRES = 1000;

export function board(drawing) {
  const form = document.querySelector("[data-spot-form]");
  if (!form) return;
  const wood = drawing.querySelector("[data-wood]");
  const spot = drawing.querySelector("[data-spot]");
  const box = { x: wood.x.baseVal.value, y: wood.y.baseVal.value, w: wood.width.baseVal.value, h: wood.height.baseVal.value };
  let at = { along: 0.5, across: 0.5 };

  const mark = (along, across) => {
    at = { along: Math.min(1, Math.max(0, along)), across: Math.min(1, Math.max(0, across)) };
    form.elements.from_end.value = `${(at.along * form.dataset.length * MILLIMETRES).toFixed(0)} mm`;
    form.elements.from_edge.value = `${(at.across * form.dataset.width * MILLIMETRES).toFixed(0)} mm`;
    spot.classList.remove("hidden");
    spot.setAttribute("transform", `translate(${box.x + at.along * box.w} ${box.y + at.across * box.h})`);
  };
  // A click, not a press: a finger that scrolls past the board says nothing.
  drawing.addEventListener("click", (event) => {
    const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(drawing.getScreenCTM().inverse());
    if (point.y > box.y + box.h + 12) return;
    mark((point.x - box.x) / box.w, (point.y - box.y) / box.h);
    form.elements.raw.focus();
  });
  drawing.addEventListener("keydown", (event) => {
    const step = { ArrowLeft: [-0.02, 0], ArrowRight: [0.02, 0], ArrowUp: [0, -0.1], ArrowDown: [0, 0.1] }[event.key];
    if (step) { mark(at.along + step[0], at.across + step[1]); event.preventDefault(); }
    if (event.key === "Enter") { form.elements.raw.focus(); event.preventDefault(); }
  });
  if (!form.querySelector("[aria-invalid]") && document.referrer.endsWith(location.pathname)) form.elements.raw.focus();
}
