// The page that works without a network: both questions are answered here, on the phone.
import { COLDEST_C, HOTTEST_C, measured, sizeRatio } from "./wood.js";

const woods = JSON.parse(document.getElementById("woods").textContent);
// By how much boards of one species differ, as a share of their movement.
const spread = Number(document.querySelector("[data-spread]").dataset.spread);

// A number as people type it, with a comma too; null where nothing or no number stands there.
const number = (field) => {
  const text = field.value.trim().replace("−", "-").replace(",", ".").replace(/\s*(%|°?[CF]|mm|in|")$/i, "");
  return text === "" ? null : Number(text);
};
const points = (fraction) => (100 * fraction).toFixed(1);
const say = (name, html) => { document.querySelector(`[data-region="${name}"]`).replaceChildren(...html); };
const line = (text, style = "reason") => Object.assign(document.createElement("p"), { className: style, textContent: text });

// The first field that cannot be: told beside it.
function wrong(form, checks) {
  for (const old of form.querySelectorAll(".wrong")) old.remove();
  for (const field of form.elements) field.removeAttribute?.("aria-invalid");
  const found = checks.find(([, is]) => !is);
  if (!found) return false;
  const [field, , why] = found;
  field.setAttribute("aria-invalid", "true");
  field.closest(".field").append(Object.assign(line(why, "wrong"), { id: `${field.id}_error` }));
  field.setAttribute("aria-describedby", `${field.id}_error`);
  return true;
}

const isInch = () => document.querySelector("[name=units]:checked")?.value === "inch";

function air() {
  const form = document.querySelector("[data-pocket=air]");
  const { temperature, humidity } = form.elements;
  const typed = number(temperature), damp = number(humidity);
  const celsius = isInch() ? ((typed - 32) * 5) / 9 : typed;
  const isWrong = wrong(form, [
    [temperature, typed === null || (celsius >= COLDEST_C && celsius <= HOTTEST_C), "Type the temperature of the air as your hygrometer shows it."],
    [humidity, damp === null || (damp >= 0 && damp <= 100), "Relative humidity lies between 0 and 100%."],
  ]);
  if (isWrong || typed === null || damp === null) return say("air", []);
  const { emc, tolerance, extrapolated } = measured(celsius, damp / 100);
  const figure = line("", "figure");
  figure.append(points(emc), " ", Object.assign(document.createElement("small"), { textContent: `± ${points(tolerance)}%` }));
  const said = [figure, line(`Wood left in this air settles at ${points(emc)}% moisture. The ± is what a hygrometer good to ±3% RH leaves open.`)];
  if (extrapolated) said.push(line("Below −1°C the equation is carried on beyond the table it was fitted to.", "hint"));
  say("air", said);
}

function movement() {
  const form = document.querySelector("[data-pocket=movement]");
  const { wood, width, from, to } = form.elements;
  const known = woods.find(([name]) => name.toLowerCase() === wood.value.trim().toLowerCase());
  const [size, before, after] = [width, from, to].map(number);
  const isMoisture = (value) => value === null || (value >= 0 && value <= 100);
  const isWrong = wrong(form, [
    [wood, !wood.value.trim() || known, "Choose a wood from the list."],
    [width, size === null || (size > 0 && size <= 5000), "Type its width across the grain."],
    [from, isMoisture(before), "Type its moisture now, in percent."],
    [to, isMoisture(after), "Type the moisture that it will come to, in percent."],
  ]);
  if (isWrong || !known || [size, before, after].includes(null)) return say("movement", []);
  const [name, radial, tangential, saturation] = known;
  const change = (shrinkage) => size * (sizeRatio(shrinkage, before / 100, after / 100, saturation) - 1);
  const written = (value) => Math.abs(value).toFixed(isInch() ? 3 : 1);
  const unit = isInch() ? "in" : "mm";
  const flat = change(tangential), quarter = change(radial);
  const figure = line("", "figure");
  const small = `± ${written(spread * flat)} ${unit} ${flat < 0 ? "narrower" : "wider"}, flat-sawn`;
  figure.append(written(flat), " ", Object.assign(document.createElement("small"), { textContent: small }));
  const besides = `${name}, quarter-sawn: ${written(quarter)} ± ${written(spread * quarter)} ${unit}. Boards in between lie in between.`;
  say("movement", [figure, line(`${besides} The ± is how much boards of one species differ.`)]);
}

function renew() {
  const system = isInch() ? "inch" : "metric";
  document.querySelectorAll("[data-metric]").forEach((one) => { one.textContent = one.dataset[system]; });
  air();
  movement();
}

try {
  const kept = localStorage.getItem("pocket-units");
  if (kept) document.querySelector(`[name=units][value="${kept}"]`).checked = true;
} catch { /* a private window keeps nothing */ }
for (const form of document.querySelectorAll("[data-pocket]")) form.addEventListener("submit", (event) => event.preventDefault());
document.addEventListener("input", (event) => {
  if (event.target.name === "units") try { localStorage.setItem("pocket-units", event.target.value); } catch { /* as above */ }
  renew();
});
const isElsewhere = location.pathname !== document.querySelector("[data-here]").dataset.here;
document.querySelectorAll("[data-elsewhere]").forEach((one) => { one.hidden = !isElsewhere; });
document.querySelectorAll("[data-insecure]").forEach((one) => { one.hidden = isSecureContext; });
document.querySelector("[data-again]")?.addEventListener("click", () => location.reload());
if (isSecureContext && "serviceWorker" in navigator) navigator.serviceWorker.register("/sw.js");
renew();
