// Keys: "/" for quick entry, "g" and a letter for a part of the work, arrows through lists, "?" for this list.
const STEPS = { ArrowDown: 1, j: 1, ArrowUp: -1, k: -1 };

export function keys() {
  let going = false;
  // Who speaks to the machine, or leans on the keyboard, can have single keys off; “?” stays, to have them back.
  const choice = document.querySelector("[data-keys]");
  if (choice) {
    choice.parentElement.hidden = false;
    choice.checked = localStorage.getItem("keys") !== "off";
    choice.addEventListener("change", () => localStorage.setItem("keys", choice.checked ? "on" : "off"));
  }
  const shown = document.querySelector("[data-show-keys]");
  if (shown) {
    shown.hidden = false;
    shown.addEventListener("click", () => document.querySelector("#keys")?.showModal());
  }
  const typing = (target) => target.closest("input, select, textarea, [role=application], dialog");

  document.addEventListener("keydown", (event) => {
    if (event.ctrlKey || event.metaKey || event.altKey || typing(event.target)) return;
    if (event.key !== "?" && choice && !choice.checked) return;
    if (event.key === "/") {
      const line = document.querySelector("#strip-line") ?? document.querySelector("[name=strip]");
      if (line) { line.focus(); event.preventDefault(); }
    } else if (event.key === "f" && !going) {
      document.querySelector("form[data-find] input")?.focus();
      event.preventDefault();
    } else if (event.key === "?") {
      document.querySelector("#keys")?.showModal();
    } else if (going) {
      document.querySelector(`.rail [data-key="${event.key}"]`)?.click();
    } else if (event.key in STEPS) {
      walk(event);
    } else if (event.key === "x") {
      const box = event.target.closest("tr")?.querySelector("[type=checkbox]");
      if (box) box.checked = !box.checked;
    }
    going = event.key === "g";
  });
}

function walk(event) {
  // Outside of a list the arrows scroll, as everywhere; j and k go into it.
  const inside = event.target.closest("[data-walk]");
  const list = inside ?? (event.key.startsWith("Arrow") ? null : document.querySelector("[data-walk]"));
  if (!list) return;
  const links = [...list.querySelectorAll("a.tag")];
  const now = links.indexOf(document.activeElement);
  const next = now < 0 ? 0 : now + STEPS[event.key];
  if (links[next]) { links[next].focus(); event.preventDefault(); }
}
