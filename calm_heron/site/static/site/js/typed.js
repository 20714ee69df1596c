// What is typed into a form that keeps something stays on this device until it is kept. It is offered again after the browser's error page,
// Back or a closed tab, and never forced. Each person's is their own; passwords and files are never among it, and signing out erases it.
import { later } from "./fetching.js";

const BEGINS = "typed:";
const MINUTE = 60_000;
const DAY = 1440 * MINUTE;
const LASTS = { p: 14 * DAY, v: DAY };
const LONGEST = 200_000;
const UNTYPED = ["hidden", "password", "file", "submit", "button", "image", "reset"];

export function typed(main) {
  let store = null;
  try { store = window.localStorage; } catch { return; }
  if (!store) return;
  const who = main.dataset.typed;
  sweep(store, who);
  const seen = {};
  for (const form of main.querySelectorAll("form[method=post]")) {
    const address = new URL(form.getAttribute("action") || location.pathname, location.href).pathname;
    seen[address] = (seen[address] ?? -1) + 1;
    if (fields(form).length) follow(store, `${BEGINS}${who}:${address}#${seen[address]}`, form);
  }
}

const fields = (form) => [...form.elements].filter((field) => field.name && !UNTYPED.includes(field.type) && field.tagName !== "FIELDSET");
const isChoice = (field) => field.type === "checkbox" || field.type === "radio";
const told = (form) => fields(form).map((field) => [field.name, isChoice(field) ? field.checked : field.value, field.type === "radio" ? field.value : ""]);
const isAsSent = (field) => {
  if (isChoice(field)) return field.checked === field.defaultChecked;
  if (field.tagName !== "SELECT") return field.value === field.defaultValue;
  const chosen = [...field.options].filter((option) => option.defaultSelected);
  return field.value === (chosen.at(-1) ?? field.options[0])?.value;
};

function read(store, key) {
  try { return JSON.parse(store.getItem(key)); } catch { return null; }
}

function follow(store, key, form) {
  const write = (sent) => {
    if (fields(form).every(isAsSent)) return;
    const values = told(form);
    const text = JSON.stringify({ at: Date.now(), sent, once: form.elements.once?.value ?? "", values });
    try { if (text.length < LONGEST) store.setItem(key, text); } catch { /* a device that is full keeps what it has */ }
  };
  let isSent = false;
  const soon = later(300, () => isSent || write(false));
  for (const kind of ["input", "change"]) form.addEventListener(kind, () => { isSent = false; soon(); });
  form.addEventListener("submit", () => { isSent = true; write(true); });
  window.addEventListener("pageshow", () => offer(store, key, form));
}

async function offer(store, key, form) {
  const draft = read(store, key);
  if (!draft || !Array.isArray(draft.values) || JSON.stringify(draft.values) === JSON.stringify(told(form))) return;
  if (draft.sent && draft.once && await wasKept(draft.once)) { store.removeItem(key); return; }
  const notice = document.getElementById("typed-before")?.content.firstElementChild.cloneNode(true);
  if (!notice || form.previousElementSibling?.matches("[data-typed-before]")) return;
  notice.querySelector("[data-what]").textContent = inShort(draft, form);
  notice.querySelector("[data-when]").textContent = ago(Date.now() - draft.at);
  notice.querySelector("[data-use]").addEventListener("click", () => { use(draft, form); notice.remove(); });
  notice.querySelector("[data-drop]").addEventListener("click", () => { store.removeItem(key); notice.remove(); });
  form.before(notice);
}

// Whether a form with this token was carried out, though its answer may never have come.
async function wasKept(once) {
  const [, shop] = location.pathname.match(/^\/w\/([^/]+)\//) ?? [];
  try {
    const answer = await fetch(`/w/${shop}/kept/?once=${encodeURIComponent(once)}`, { credentials: "same-origin" });
    return answer.ok && (await answer.json()).kept;
  } catch { return false; }
}

function use(draft, form) {
  const counted = {};
  const all = fields(form);
  for (const [name, value, own] of draft.values) {
    const among = all.filter((field) => field.name === name && (!own || field.value === own));
    counted[name + own] = (counted[name + own] ?? -1) + 1;
    const field = among[counted[name + own]];
    if (!field) continue;
    if (isChoice(field)) field.checked = value; else field.value = value;
    for (const kind of ["input", "change"]) field.dispatchEvent(new Event(kind, { bubbles: true }));
  }
  // Sent again it is the same form: what was kept after all is not kept twice.
  if (draft.sent && draft.once && form.elements.once) form.elements.once.value = draft.once;
  all.find((field) => !isChoice(field))?.focus();
}

function inShort(draft, form) {
  // What a list has chosen is a number of ours, and tells nobody anything.
  const sent = Object.fromEntries(fields(form).filter((field) => field.tagName !== "SELECT").map((field) => [field.name, field.defaultValue]));
  const words = draft.values.filter(([name, value]) => typeof value === "string" && name in sent && value.trim() && value !== sent[name]).map(([, value]) => value.trim());
  const text = words.join(", ").replace(/\s+/g, " ");
  return text.length > 60 ? `${text.slice(0, 59)}…` : text;
}

function ago(passed) {
  const [number, unit] = passed < MINUTE ? [0, ""] : passed < 60 * MINUTE ? [passed / MINUTE, "minute"] : passed < DAY ? [passed / (60 * MINUTE), "hour"] : [passed / DAY, "day"];
  const whole = Math.floor(number);
  return whole ? `${whole} ${unit}${whole === 1 ? "" : "s"} ago` : "a moment ago";
}

// What is old goes, and what visitors typed into demos other than this one; so does what was sent without a token and led on to a page.
function sweep(store, who) {
  const [how] = performance.getEntriesByType("navigation");
  const ledOn = how?.type === "navigate" && document.referrer.startsWith(location.origin);
  for (const key of Object.keys(store).filter((name) => name.startsWith(BEGINS))) {
    const draft = read(store, key);
    const owner = key.slice(BEGINS.length).split(":")[0];
    const age = Date.now() - (draft?.at ?? 0);
    const isOver = !draft || age > (LASTS[owner[0]] ?? 0) || (owner[0] === "v" && owner !== who);
    if (isOver || (draft.sent && !draft.once && owner === who && ledOn && age < MINUTE)) store.removeItem(key);
  }
}
