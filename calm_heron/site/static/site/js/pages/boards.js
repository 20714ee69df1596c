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

function lay(piece, board, x, y) {
  form.elements.piece.value = piece;
  form.elements.board.value = board;
  form.elements.x_m.value = millimetres(x);
  form.elements.y_m.value = millimetres(y);
  form.requestSubmit();
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
    if (!moved) return;
    group.style.pointerEvents = "none";
    const there = document.elementsFromPoint(event.clientX, event.clientY).map((one) => one.closest?.("[data-board]")).find(Boolean) ?? board;
    const [dx, dy] = [on(board, start)[0] - rect.x.baseVal.value, on(board, start)[1] - rect.y.baseVal.value];
    const [x, y] = on(there, event);
    const shrink = Number(there.dataset.scale) / Number(board.dataset.scale);
    const [left, low] = metres(there, x - dx * shrink, y - dy * shrink + rect.height.baseVal.value * shrink);
    lay(group.dataset.piece, there.dataset.board, left, low);
  };
  group.setPointerCapture(start.pointerId);
  group.addEventListener("pointermove", move);
  group.addEventListener("pointerup", drop, { once: true });
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

if (form) {
  document.querySelector("[data-drag-says]")?.removeAttribute("hidden");
  for (const board of document.querySelectorAll("[data-board]")) {
    board.addEventListener("pointerdown", (event) => {
      const group = event.target.closest("[data-piece]");
      if (marking?.checked) { event.preventDefault(); draw(board, event); }
      else if (group) { event.preventDefault(); carry(group, event); }
    });
  }
}
