// Beside the wheel: taps become lines of the protocol, the count comes back live, a click keeps the pace.
const stand = document.querySelector(".standing");
const { run, live } = stand.dataset;
const ratio = Number(stand.dataset.ratio);
const motor = stand.dataset.beat === "second";
const waiting = []; // lines not answered for yet
const own = tapper();
const TREADLE = 0.5; // seconds that one takes, at the least
const began = performance.now() - 1000 * TREADLE;
let turns = 0;
let believed = stand.dataset.believed;
let sending = false;
let paused = document.getElementById("pause")?.getAttribute("aria-pressed") === "true";

/** The name of this device among the counters of a run; the same after a reload. */
function tapper() {
  let name = null;
  try {
    name = localStorage.getItem("tapper");
    if (!name) localStorage.setItem("tapper", (name = `tap-${Math.random().toString(36).slice(2, 10)}`));
  } catch {
    // nothing can be kept here: another name after a reload
  }
  return name ?? `tap-${Math.random().toString(36).slice(2, 10)}`;
}

const seconds = () => Number(((performance.now() - began) / 1000).toFixed(3));

/** Send what waits; what is not answered for is sent again. */
async function send() {
  if (sending || !waiting.length) return;
  sending = true;
  const lines = waiting.slice();
  try {
    const answer = await fetch(`${run}/lines?source=${own}`, { method: "POST", body: lines.map((each) => JSON.stringify(each)).join("\n") });
    if (answer.ok) waiting.splice(0, lines.length);
  } catch {
    // the line is down: what waits is sent once it is up again
  }
  sending = false;
  if (waiting.length) setTimeout(send, 500);
}

function tell(line, at = seconds()) {
  waiting.push({ t: at, ...line });
  send();
}

/** A motor turns by itself: its turns go on while it goes. */
function turning() {
  if (paused) return;
  turns += ratio / 4;
  tell({ turns: Number(turns.toFixed(3)) });
}

/** Who taps here means to count here, unless a counter on the wheel does. */
async function mine(at) {
  if (!believed.startsWith("tap") || believed === own) return;
  believed = own;
  await fetch(`${run}/believe?source=${own}`, { method: "POST" });
  tell({ turns }, at - TREADLE); // from here on it counts
}

let tapped = Promise.resolve();

/** Taps one after the other, each at its own moment, however long it takes to say who counts. */
function treadle() {
  const at = seconds();
  tapped = tapped.then(() => tap(at));
}

async function tap(at) {
  if (motor) {
    if (turns) pause();
    else {
      tell({ turns: 0 });
      setInterval(turning, 250);
    }
    return;
  }
  await mine(at);
  if (!turns) tell({ turns: 0 }, at - TREADLE); // the same, where nobody counted before
  turns += ratio;
  tell({ turns }, at);
}

function pause() {
  paused = !paused;
  document.getElementById("pause").setAttribute("aria-pressed", String(paused));
  tell({ mark: paused ? "stop" : "start" });
}

function show(state) {
  for (const name of ["drafts", "treadles", "twist", "metres", "left", "alarm", "bobbin", "aside", "counters", "parked"]) {
    const place = document.getElementById(`live-${name}`);
    if (place.textContent !== state[name]) place.textContent = state[name];
  }
  believed = state.believed;
  document.getElementById("draft-turned").style.transform = `scaleX(${state.share})`;
  const full = document.getElementById("live-full");
  full.setAttribute("y", String(30 - 24 * state.full));
  full.setAttribute("height", String(10 + 48 * state.full));
}

let sound = null;
let beat = 0;

/** One click, and one pulse. */
function click() {
  stand.classList.toggle("beat");
  if (!sound) return;
  const tone = sound.createOscillator();
  const loud = sound.createGain();
  loud.gain.setValueAtTime(Number(document.getElementById("loud").value), sound.currentTime);
  loud.gain.exponentialRampToValueAtTime(0.001, sound.currentTime + 0.05);
  tone.frequency.value = 880;
  tone.connect(loud).connect(sound.destination);
  tone.start();
  tone.stop(sound.currentTime + 0.06);
}

function clicking(on) {
  document.getElementById("click").setAttribute("aria-pressed", String(on));
  clearInterval(beat);
  beat = 0;
  if (!on) return;
  sound ??= new AudioContext();
  beat = setInterval(click, 60_000 / Number(stand.dataset.pace));
}

if (live) {
  document.getElementById("draft-turned").style.transform = `scaleX(${document.querySelector(".draft-at").dataset.share})`;
  const told = new EventSource(live);
  told.addEventListener("message", ({ data }) => show(JSON.parse(data)));
  if (!document.getElementById("treadle")) told.addEventListener("error", () => told.close()); // played to its end
}
if (document.getElementById("treadle")) {
  document.getElementById("treadle").addEventListener("click", treadle);
  document.getElementById("draft").addEventListener("click", () => tell({ mark: "draft" }));
  document.getElementById("pause").addEventListener("click", pause);
  document.getElementById("click").addEventListener("click", () => clicking(!beat));
  document.addEventListener("keydown", (event) => {
    if (event.target.closest("a, input, summary, .stand-more button") || event.ctrlKey || event.metaKey || event.repeat) return;
    if (event.key === " ") treadle();
    else if (event.key === "Enter") tell({ mark: "draft" });
    else return;
    event.preventDefault();
  });
  document.getElementById("join").addEventListener("click", () => tell({ mark: "join" }));
  navigator.wakeLock?.request("screen").catch(() => {});
}
