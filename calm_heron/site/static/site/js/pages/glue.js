// The boards of a panel, put in order by dragging or with buttons; the panel is drawn anew at once by the server.
import { asker } from "../fetching.js";

const form = document.querySelector("form[data-glue]");
const list = form?.querySelector("[data-staves]");
const region = document.querySelector('[data-region="panel"]');

function glue() {
  const field = form.elements.order;
  const ask = asker((html) => { region.innerHTML = html; }, undefined, { patient: true });
  const copy = new URLSearchParams(location.search).get("copy") ?? "0";
  const read = () => [...list.children].map((row) => [Number(row.dataset.stave), row.dataset.up === "1", row.dataset.turned === "1"]);
  const renew = () => {
    const order = JSON.stringify(read());
    field.value = order;
    for (const row of list.children) {
      const words = [row.dataset.up === "1" ? "bark side up" : "pith side up", ...(row.dataset.turned === "1" ? ["turned end for end"] : [])];
      row.querySelector("[data-side]").textContent = words.join(", ");
    }
    ask(`?${new URLSearchParams({ fragment: "panel", copy, order })}`);
  };
  const lay = (order) => {
    const rows = new Map([...list.children].map((row) => [Number(row.dataset.stave), row]));
    for (const [stave, up, turned] of order) {
      const row = rows.get(stave);
      row.dataset.up = up ? "1" : "";
      row.dataset.turned = turned ? "1" : "";
      list.append(row);
    }
    renew();
  };
  for (const row of list.children) {
    row.querySelector("[data-moves]").hidden = false;
    row.draggable = true;
    row.addEventListener("dragstart", (event) => { event.dataTransfer.setData("text/plain", row.dataset.stave); row.dataset.dragged = "1"; });
    row.addEventListener("dragend", () => { delete row.dataset.dragged; });
  }
  list.addEventListener("dragover", (event) => {
    event.preventDefault();
    const dragged = list.querySelector("[data-dragged]");
    const over = event.target.closest("[data-stave]");
    if (!dragged || !over || over === dragged) return;
    const box = over.getBoundingClientRect();
    over[event.clientY < box.top + box.height / 2 ? "before" : "after"](dragged);
  });
  list.addEventListener("drop", (event) => { event.preventDefault(); renew(); });
  list.addEventListener("click", (event) => {
    const button = event.target.closest("button");
    const row = button?.closest("[data-stave]");
    if (!row) return;
    if (button.dataset.flip) row.dataset[button.dataset.flip] = row.dataset[button.dataset.flip] === "1" ? "" : "1";
    else if (button.dataset.move === "-1") row.previousElementSibling?.before(row);
    else row.nextElementSibling?.after(row);
    button.focus();
    renew();
  });
  region.addEventListener("click", (event) => {
    const button = event.target.closest("[data-order]");
    if (button) lay(JSON.parse(button.dataset.order));
  });
}

if (list) glue();
