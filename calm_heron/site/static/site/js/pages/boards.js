// Pieces that are moved on their boards by mouse or finger, and what of a board is kept out drawn over it; both are sent as the forms beneath would.
const SVG = "http://www.w3.org/2000/svg";
const form = document.querySelector("form[data-place]");
const marking = document.querySelector("[data-marking]");
const millimetres = (metres) => `${(metres * 1000).toFixed(1)} mm`;

// Where a pointer is on a drawn board, in the drawing's units.
function on(board, event) {
  const box = board.getBoundingClientRect();
  const scale = board.viewBox.baseVal.width / box.width;
  return [(event.clientX - box.left) * scale, (event.clientY - box.top) * scale];
}

// A place of the drawing on the board itself, metres from its lower left corner.
const metres = (board, x, y) => [(x - Number(board.dataset.left)) / Number(board.dataset.scale), (Number(board.dataset.bottom) - y) / Number(board.dataset.scale)];

// Laid where it was put: what changed comes back alone. Where there is no answer the form beneath is sent, as a whole page.
let laying = Promise.resolve();

function lay(piece, board, x, y) {
  laying = laying.then(() => layNow(piece, board, x, y));
}

async function layNow(piece, board, x, y) {
  form.elements.piece.value = piece;
  // A board that is not offered in the list is one that is held already.
  if (![...form.elements.board.options].some((one) => one.value === board)) form.elements.board.add(new Option(board, board));
  form.elements.board.value = board;
  form.elements.x_m.value = millimetres(x);
  form.elements.y_m.value = millimetres(y);
  const sent = new URLSearchParams(new FormData(form));
  sent.set("fragment", "boards");
  let answer;
  try {
    answer = await fetch(form.action, { method: "POST", body: sent, credentials: "same-origin" });
  } catch { return form.requestSubmit(); }
  if (answer.status === 422) return refuse(await answer.text());
  if (!answer.ok || answer.redirected) return form.requestSubmit();
  const page = new DOMParser().parseFromString(await answer.text(), "text/html");
  const told = page.querySelector("[data-order]");
  const region = document.querySelector('[data-region="boards"]');
  document.querySelector('[data-region="layout-words"]').replaceChildren(...page.querySelector("[data-words]").childNodes);
  for (const section of page.querySelectorAll("section[id]")) {
    const old = document.getElementById(section.id);
    if (old) {
      const open = [...old.querySelectorAll("details")].map((one) => one.open);
      section.querySelectorAll("details").forEach((one, n) => { one.open = open[n] ?? false; });
      old.replaceWith(section);
    } else region.append(section);
    section.querySelectorAll("[data-board]").forEach(attend);
  }
  const held = told.dataset.order.split(" ").map((id) => `board-${id}`);
  for (const section of region.querySelectorAll("section[id]")) if (!held.includes(section.id)) section.remove();
  for (const field of document.querySelectorAll("input[name=version]")) field.value = told.dataset.version;
  form.elements.once.value = told.dataset.once;
  refuse("");
  onIt(piece)?.focus({ preventScroll: true });
}

const onIt = (piece) => [...document.querySelectorAll(`[data-piece="${CSS.escape(piece)}"]`)].find((one) => one.getBoundingClientRect().width > 0);

// Why it cannot lie there; it goes back to where it lay.
function refuse(words) {
  const line = document.querySelector("[data-refused]");
  line.textContent = words;
  line.hidden = !words;
  if (!words) return;
  for (const group of document.querySelectorAll("[data-piece]")) { group.removeAttribute("transform"); group.style.pointerEvents = ""; }
  line.scrollIntoView({ block: "nearest" });
}

function carry(group, start) {
  const board = group.closest("[data-board]");
  const rect = group.querySelector("rect");
  const [x0, y0] = on(board, start);
  let moved = false;
  const move = (event) => {
    const [x, y] = on(board, event);
    moved ||= Math.hypot(x - x0, y - y0) > 4;
    if (moved) group.setAttribute("transform", `translate(${x - x0} ${y - y0})`);
  };
  const drop = (event) => {
    group.removeEventListener("pointermove", move);
    group.removeEventListener("pointercancel", back);
    if (!moved) return;
    group.style.pointerEvents = "none";
    const there = document.elementsFromPoint(event.clientX, event.clientY).map((one) => one.closest?.("[data-board]")).find(Boolean) ?? board;
    const [dx, dy] = [on(board, start)[0] - rect.x.baseVal.value, on(board, start)[1] - rect.y.baseVal.value];
    const [x, y] = on(there, event);
    const shrink = Number(there.dataset.scale) / Number(board.dataset.scale);
    const [left, low] = metres(there, x - dx * shrink, y - dy * shrink + rect.height.baseVal.value * shrink);
    lay(group.dataset.piece, there.dataset.board, left, low);
  };
  const back = () => {
    group.removeEventListener("pointermove", move);
    group.removeEventListener("pointerup", drop);
    group.removeAttribute("transform");
  };
  group.setPointerCapture(start.pointerId);
  group.addEventListener("pointermove", move);
  group.addEventListener("pointerup", drop, { once: true });
  group.addEventListener("pointercancel", back, { once: true });
}

// By keys a piece goes five millimetres, fifty with Shift; every press counts, and it is laid once the hand rests.
const RESTS_MS = 700;
const STEPS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };
let walking = null;

function walk(group, event) {
  const [along, across] = STEPS[event.key];
  const board = group.closest("[data-board]");
  const by = event.shiftKey ? 0.05 : 0.005;
  if (walking?.group !== group) walking = { group, x: 0, y: 0 };
  // Its own walk, though another piece is pressed before it is laid.
  const mine = walking;
  mine.x += along * by;
  mine.y += across * by;
  const scale = Number(board.dataset.scale);
  group.setAttribute("transform", `translate(${mine.x * scale} ${-mine.y * scale})`);
  clearTimeout(mine.timer);
  mine.timer = setTimeout(() => {
    const rect = group.querySelector("rect");
    const [left, low] = metres(board, rect.x.baseVal.value, rect.y.baseVal.value + rect.height.baseVal.value);
    if (walking === mine) walking = null;
    lay(group.dataset.piece, board.dataset.board, Math.max(0, left + mine.x), Math.max(0, low + mine.y));
  }, RESTS_MS);
}

function draw(board, start) {
  const [x0, y0] = on(board, start);
  const box = document.createElementNS(SVG, "rect");
  box.setAttribute("class", "zone");
  board.append(box);
  const spread = (event) => {
    const [x, y] = on(board, event);
    box.setAttribute("x", Math.min(x, x0));
    box.setAttribute("y", Math.min(y, y0));
    box.setAttribute("width", Math.abs(x - x0));
    box.setAttribute("height", Math.abs(y - y0));
  };
  board.setPointerCapture(start.pointerId);
  board.addEventListener("pointermove", spread);
  board.addEventListener("pointerup", (event) => {
    board.removeEventListener("pointermove", spread);
    const [x, y] = on(board, event);
    const one = metres(board, x0, y0);
    const other = metres(board, x, y);
    const fields = document.querySelector("form[data-mark]")?.elements;
    if (!fields || Math.abs(x - x0) < 3) return box.remove();
    for (const [name, axis] of [["x", 0], ["y", 1]]) {
      fields[`${name}0_m`].value = millimetres(Math.max(0, Math.min(one[axis], other[axis])));
      fields[`${name}1_m`].value = millimetres(Math.max(one[axis], other[axis]));
    }
    fields.board.value = board.dataset.board;
    fields.kind.closest("details").open = true;
    fields.kind.focus();
  }, { once: true });
}

function attend(board) {
  board.addEventListener("keydown", (event) => {
    const group = event.target.closest("[data-piece]");
    if (!group || !STEPS[event.key]) return;
    event.preventDefault();
    walk(group, event);
  });
  board.addEventListener("click", (event) => event.target.closest("[data-piece]")?.focus({ preventScroll: true }));
  board.addEventListener("pointerdown", (event) => {
    const group = event.target.closest("[data-piece]");
    if (marking?.checked) { event.preventDefault(); draw(board, event); }
    else if (group) {
      // A finger walks along the board until a piece was tapped; then it moves that piece.
      if (event.pointerType === "touch" && document.activeElement !== group) return;
      event.preventDefault();
      group.focus({ preventScroll: true });
      carry(group, event);
    }
  });
}

if (form) {
  document.querySelector("[data-drag-says]")?.removeAttribute("hidden");
  document.querySelectorAll("[data-board]").forEach(attend);
}
