// The clock of a microwave session: large buttons for gloves, a sound at the end, and the screen stays awake while it runs.
const TONE_HZ = 880;

function timer(part) {
  const left = part.querySelector("[data-left]");
  const [heat, rest] = [part.querySelector("[data-start]"), part.querySelector("[data-resting]")];
  let ends = null;
  let ticking = null;
  let sound = null;
  let awake = null;
  part.hidden = false;

  const written = (seconds) => `${Math.floor(seconds / 60)}:${String(Math.ceil(seconds) % 60).padStart(2, "0")}`;
  const beep = () => {
    for (let k = 0; k < 3; k++) {
      const tone = sound.createOscillator();
      const loud = sound.createGain();
      loud.gain.value = 0.3;
      tone.frequency.value = TONE_HZ;
      tone.connect(loud).connect(sound.destination);
      tone.start(sound.currentTime + k * 0.5);
      tone.stop(sound.currentTime + k * 0.5 + 0.3);
    }
  };
  const over = (words) => {
    clearInterval(ticking);
    ticking = null;
    left.textContent = words;
    awake?.release();
    awake = null;
  };
  const run = async (seconds, words) => {
    // A second press takes it back.
    if (ticking) { over("Stopped"); return; }
    sound ??= new AudioContext();
    ends = Date.now() + seconds * 1000;
    const tick = () => {
      const still = (ends - Date.now()) / 1000;
      if (still > 0) { left.textContent = written(still); return; }
      over(words);
      beep();
    };
    tick();
    ticking = setInterval(tick, 250);
    try { awake = await navigator.wakeLock?.request("screen"); } catch { awake = null; }
  };
  heat.addEventListener("click", () => run(Number(part.dataset.heat), "Open the door, feel it, let it rest"));
  rest.addEventListener("click", () => run(Number(part.dataset.rest) * 60, "Weigh it"));
}

document.querySelectorAll("[data-timer]").forEach(timer);
