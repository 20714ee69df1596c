// The end of a log: checks are drawn on it with a finger, the pith is set, the cuts are dragged; the server draws what comes of it.
import { presses } from "../presses.js";

const MILLIMETRES = 1000;
const FEWEST = 6; // drawing units a stroke must be long
const SETTLED = 1500; // after the last press, what is drawn is what stands
const SAYS = {
  check: "Draw each check from where it begins to where it ends.",
  bark: "Draw where bark has grown in.",
  knot: "Draw each knot from its middle to its edge.",
  pith: "Tap the pith.",
  lines: "Drag a ring: the two beside their lines, or the one that turns them.",
  photo: "Tap the bark at the left, then at the right: the photograph is scaled to the log.",
};

function cutting(form) {
  const region = document.querySelector(`[data-region="${form.dataset.live}"]`);
  const fields = form.elements;
  const tools = document.querySelector("[data-tools]");
  const says = tools.querySelector("[data-tool-says]");
  tools.hidden = false;
  let scaling = null;
  let photograph = null;
  let held = null;

  const ask = () => form.dispatchEvent(new CustomEvent("input", { bubbles: true, detail: { slid: true } }));
  const ours = () => { for (const name of ["angle", "upper", "lower", "off"]) fields[name].value = ""; };
  const tool = () => (scaling ? "photo" : fields.tool.value);
  const say = () => { says.textContent = SAYS[tool()]; };
  const shown = () => [...region.querySelectorAll(".log-end")].find((one) => one.getBoundingClientRect().width > 0);
  const number = (drawing, name) => Number(drawing.dataset[name]);
  const point = (drawing, event) => new DOMPoint(event.clientX, event.clientY).matrixTransform(drawing.getScreenCTM().inverse());
  const metres = (drawing, at) => [(at.x - number(drawing, "cx")) / number(drawing, "scale"), (number(drawing, "cy") - at.y) / number(drawing, "scale")];

  // A stroke needs no more points than show its bends.
  const thinned = (points) => {
    if (points.length <= 5) return points;
    const step = (points.length - 1) / 4;
    return [0, 1, 2, 3, 4].map((k) => points[Math.round(k * step)]);
  };
  const keep = (drawing, points) => {
    const written = thinned(points).map((at) => metres(drawing, at).map((one) => Math.round(one * MILLIMETRES)).join(".")).join("*");
    const kind = { bark: "*b", knot: "*k" }[tool()] ?? "";
    const deep = tool() === "knot" || !tools.querySelector("[data-deep]").value ? "" : `*d${tools.querySelector("[data-deep]").value}`;
    fields.strokes.value = [fields.strokes.value, written + kind + deep].filter(Boolean).join("_");
    ours();
    ask();
  };

  const moved = (drawing, what, at) => {
    const [x, y] = [at.x - number(drawing, "px"), number(drawing, "py") - at.y];
    let angle = number(drawing, "angle");
    const lines = { upper: number(drawing, "upper"), lower: number(drawing, "lower") };
    if (what === "angle") angle = (Math.atan2(y, x) * 180) / Math.PI;
    else {
      const turn = (angle * Math.PI) / 180;
      const above = (-x * Math.sin(turn) + y * Math.cos(turn)) / number(drawing, "scale");
      lines[what] = Math.max(what === "upper" ? above : -above, 0.002);
    }
    set(angle, lines.upper, lines.lower);
  };
  const set = (angle, upper, lower) => {
    fields.angle.value = (((angle % 180) + 180) % 180).toFixed(2);
    fields.upper.value = upper.toFixed(4);
    fields.lower.value = lower.toFixed(4);
    ask();
  };

  region.addEventListener("pointerdown", (event) => {
    const drawing = event.target.closest(".log-end");
    if (!drawing) return;
    const at = point(drawing, event);
    const grip = event.target.closest("[data-moves]");
    if (scaling) { scaled(drawing, at); return; }
    if (grip) held = { what: grip.dataset.moves, grip };
    else if (tool() === "pith") {
      const [x, y] = metres(drawing, at);
      fields.pith_x_m.value = `${(x * MILLIMETRES).toFixed(0)} mm`;
      fields.pith_y_m.value = `${(y * MILLIMETRES).toFixed(0)} mm`;
      ours();
      ask();
      return;
    } else if (tool() === "lines") return;
    else {
      const line = document.createElementNS("http://www.w3.org/2000/svg", "polyline");
      line.setAttribute("class", "broken");
      drawing.append(line);
      held = { points: [at], line };
    }
    held.drawing = drawing;
    region.setPointerCapture(event.pointerId);
    event.preventDefault();
  });
  region.addEventListener("pointermove", (event) => {
    if (!held) return;
    const at = point(held.drawing, event);
    if (held.points) {
      held.points.push(at);
      held.line.setAttribute("points", held.points.map((one) => `${one.x},${one.y}`).join(" "));
    } else { held.grip.setAttribute("cx", at.x); held.grip.setAttribute("cy", at.y); held.at = at; }
  });
  const drop = () => {
    const done = held;
    held = null;
    if (!done) return;
    if (done.points) {
      const last = done.points.at(-1);
      if (Math.hypot(last.x - done.points[0].x, last.y - done.points[0].y) < FEWEST) done.line.remove();
      else keep(done.drawing, done.points);
    } else if (done.at) moved(done.drawing, done.what, done.at);
  };
  region.addEventListener("pointerup", drop);
  region.addEventListener("pointercancel", drop);

  // Lines are moved by keys, too.
  const pressedTo = presses(SETTLED, (drawing) => ({ angle: number(drawing, "angle"), upper: number(drawing, "upper"), lower: number(drawing, "lower") }));
  region.addEventListener("keydown", (event) => {
    const grip = event.target.closest?.("[data-moves]");
    const step = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1 }[event.key];
    if (!grip || !step) return;
    event.preventDefault();
    const pressed = pressedTo(grip.ownerSVGElement);
    pressed[grip.dataset.moves] += step * (grip.dataset.moves === "angle" ? 2 : 0.002) * (event.shiftKey ? 5 : 1);
    pressed.upper = Math.max(pressed.upper, 0.002);
    pressed.lower = Math.max(pressed.lower, 0.002);
    set(pressed.angle, pressed.upper, pressed.lower);
  });

  // Another plan, ours again, the last stroke out.
  region.addEventListener("click", (event) => {
    const plan = event.target.closest("button[name=plan]");
    if (!plan) return;
    event.preventDefault();
    ours();
    fields.plan.value = plan.value;
    ask();
  });
  tools.querySelector("[data-ours]").addEventListener("click", () => { ours(); ask(); });
  tools.querySelector("[data-undo]").addEventListener("click", () => {
    fields.strokes.value = fields.strokes.value.split("_").slice(0, -1).join("_");
    ours();
    ask();
  });
  tools.addEventListener("change", (event) => { if (event.target.name === "tool") say(); });
  form.addEventListener("change", (event) => {
    // Another log, or another wish: lines that were drawn for the one before are ours again.
    if (event.target.type !== "hidden") ours();
  });

  // A photograph beneath stays on this device; it is drawn small, whatever its size.
  const beneath = () => {
    const drawing = shown();
    if (!photograph || !drawing) return;
    const frame = drawing.parentElement;
    frame.classList.add("relative");
    frame.querySelector("canvas")?.remove();
    const canvas = document.createElement("canvas");
    canvas.className = "absolute inset-0 mt-3 w-full";
    const box = drawing.viewBox.baseVal;
    canvas.width = box.width;
    canvas.height = box.height;
    const pen = canvas.getContext("2d");
    const { picture, left, right } = photograph;
    if (left && right) {
      const wide = Number(drawing.dataset.wide);
      const size = wide / Math.hypot(right.x - left.x, right.y - left.y);
      pen.translate(number(drawing, "cx"), number(drawing, "cy"));
      pen.rotate(-Math.atan2(right.y - left.y, right.x - left.x));
      pen.scale(size, size);
      pen.translate(-(left.x + right.x) / 2, -(left.y + right.y) / 2);
      pen.drawImage(picture, 0, 0);
    } else {
      const size = Math.min(canvas.width / picture.width, canvas.height / picture.height);
      pen.drawImage(picture, 0, 0, picture.width * size, picture.height * size);
      photograph.size = size;
    }
    frame.prepend(canvas);
    drawing.classList.add("relative");
    for (const part of drawing.querySelectorAll(".bark")) part.setAttribute("fill-opacity", 0);
  };
  const scaled = (drawing, at) => {
    scaling.push({ x: at.x / photograph.size, y: at.y / photograph.size });
    if (scaling.length < 2) return;
    [photograph.left, photograph.right] = scaling;
    scaling = null;
    say();
    beneath();
  };
  tools.querySelector("[data-beneath]").addEventListener("change", async (event) => {
    const file = event.target.files[0];
    if (!file) return;
    try {
      const picture = await createImageBitmap(file, { resizeWidth: 1200 });
      photograph = { picture };
      scaling = [];
      say();
      beneath();
    } catch { says.textContent = "This file is no photograph that can be shown here."; }
  });
  region.addEventListener("renewed", beneath);
}

document.querySelectorAll("form[data-live]").forEach(cutting);

// What is kept of a drawing is what stands in its form now.
document.querySelectorAll("form[data-keeps]").forEach((form) => form.addEventListener("submit", () => {
  const shown = document.querySelector(form.dataset.keeps);
  form.elements.state.value = new URLSearchParams([...new FormData(shown)].filter(([, value]) => typeof value === "string")).toString();
}));
