// Two years of a thing, month by month: a slider, a button that plays it, and marks in the answer that go to its driest and its dampest.
const A_MONTH = 350;

function season(form) {
  const slider = document.querySelector("[type=range][name=stop]");
  const play = document.querySelector("[data-play]");
  if (!slider || !play) return;
  // It lies outside its form, near the drawing: what moves there is passed on.
  const ask = () => form.dispatchEvent(new CustomEvent("input", { bubbles: true, detail: { slid: true } }));
  const go = (to) => { slider.value = to; ask(); };
  let running = null;
  const stop = () => { clearInterval(running); running = null; play.textContent = "Play"; };
  play.hidden = false;
  play.addEventListener("click", () => {
    if (running) { stop(); return; }
    play.textContent = "Stop";
    if (slider.value === slider.max) slider.value = slider.min;
    running = setInterval(() => (slider.value === slider.max ? stop() : go(Number(slider.value) + 1)), A_MONTH);
  });
  slider.addEventListener("input", () => { stop(); ask(); });
  document.querySelector(`[data-region="${form.dataset.live}"]`).addEventListener("click", (event) => {
    const mark = event.target.closest("[data-set=stop]");
    if (!mark) return;
    event.preventDefault();
    stop();
    go(mark.dataset.value);
  });
}

document.querySelectorAll("form[data-live]").forEach(season);
