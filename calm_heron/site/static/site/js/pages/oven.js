// The clock of a microwave session: large buttons for gloves, a sound at the end, and the screen stays awake while it runs. When it ends is
// written down, so that a phone that was locked, or a page that was closed, goes on where the clock is, and says how long it has been over.
const TONE_HZ = 880;

function timer(part) {
  const left = part.querySelector("[data-left]");
  const kept = `oven-${part.dataset.timer}`;
  const [heat, rest] = [part.querySelector("[data-start]"), part.querySelector("[data-resting]")];
  let ticking = null;
  let sound = null;
  let awake = null;
  part.hidden = false;

  const written = (seconds) => {
    const whole = Math.max(Math.ceil(seconds), 0);
    return `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, "0")}`;
  };
  const read = () => {
    try { return JSON.parse(localStorage.getItem(kept)); } catch { return null; }
  };
  const write = (running) => {
    try {
      if (running) localStorage.setItem(kept, JSON.stringify(running));
      else localStorage.removeItem(kept);
    } catch { /* a browser that keeps nothing still counts while the page stands */ }
  };
  const beep = () => {
    navigator.vibrate?.([300, 200, 300, 200, 300]);
    if (!sound) return;
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
    write(null);
    awake?.release();
    awake = null;
  };
  const stayAwake = async () => {
    try { awake = await navigator.wakeLock?.request("screen"); } catch { awake = null; }
  };
  const count = (running) => {
    left.hidden = false;
    const tick = () => {
      const still = (running.ends - Date.now()) / 1000;
      if (still > 0) { left.textContent = written(still); return; }
      const since = Math.floor(-still / 60);
      over(since ? `${running.words}: over for ${since} min` : running.words);
      beep();
    };
    ticking = setInterval(tick, 250);
    tick();
  };
  const run = (seconds, words) => {
    // A second press takes it back.
    if (ticking) { over("Stopped"); return; }
    sound ??= new AudioContext();
    const running = { ends: Date.now() + seconds * 1000, words };
    write(running);
    count(running);
    stayAwake();
  };
  heat.addEventListener("click", () => run(Number(part.dataset.heat), "Open the door, feel it, let it rest"));
  rest.addEventListener("click", () => run(Number(part.dataset.rest) * 60, "Weigh it"));
  document.addEventListener("visibilitychange", () => { if (ticking && !document.hidden) stayAwake(); });
  const before = read();
  if (before) count(before);
}

document.querySelectorAll("[data-timer]").forEach(timer);
