// Sections follow what is typed; figures are nudged by keys, and a section dragged in the strip is made longer or shorter.
// What was done to them can be undone, step by step, after a reload too.
import { follow } from "./follow.js";
import { changed } from "./nudge.js";
import { inRelief } from "./stage.js";

const MOST_STEPS = 100;
const form = document.getElementById("texture");
const place = `pebble-wheel texture ${location.pathname.replace("/follow", "")}`;
const undo = document.getElementById("undo");
const rows = document.getElementById("rows");

inRelief(form);
const { whenQuiet } = follow(form);

const fields = () => [...form.elements].filter((each) => /^(begins|ends|times|gesture-|length-|fed-|have-)/.test(each.name));
const typed = () => JSON.stringify(Object.fromEntries(fields().filter((each) => each.value).map((each) => [each.name, each.value])));
let past = JSON.parse(sessionStorage.getItem(place) ?? "[]");

function remember(steps) {
  past = steps.slice(-MOST_STEPS);
  sessionStorage.setItem(place, JSON.stringify(past));
  undo.disabled = past.length < 2;
}

/** Note what is typed now as a step that can be undone. */
function note() {
  const now = typed();
  remember(past.at(-1) === now ? past : [...past, now]);
}

function step() {
  note();
  if (past.length < 2) return;
  remember(past.slice(0, -1));
  const before = JSON.parse(past.at(-1));
  for (const field of fields()) field.value = before[field.name] ?? "";
  changed(form); // rows come and go with it
}

note();
form.addEventListener("change", note);

let inRows = false; // whether a control there is in use, which may go with its row
document.addEventListener("htmx:before:swap", () => {
  inRows = rows.contains(document.activeElement);
});
document.addEventListener("htmx:after:swap", ({ detail: { ctx } }) => {
  if (["start", "do"].includes(ctx.sourceElement.name)) note();
  if (inRows && document.activeElement === document.body) [...rows.querySelectorAll("select")].at(-1).focus({ preventScroll: true });
});

undo.addEventListener("click", () => whenQuiet(step));
document.addEventListener("keydown", (event) => {
  if (!(event.ctrlKey || event.metaKey) || event.key !== "z") return;
  event.preventDefault();
  whenQuiet(step);
});

/** The stage goes along the yarn and nearer with keys and wheel, as the sliders do. */
function slide(id, by) {
  const slider = document.getElementById(id);
  slider.value = String(Number(slider.value) + by);
  changed(slider);
}

const KEYS = { ArrowLeft: ["seen", -0.01], ArrowRight: ["seen", 0.01], "+": ["zoom", 0.06], "-": ["zoom", -0.06] };
const stage = document.querySelector(".stage");
stage.addEventListener("keydown", (event) => {
  if (event.target !== stage || !KEYS[event.key]) return;
  event.preventDefault();
  slide(...KEYS[event.key]);
});
stage.addEventListener("wheel", (event) => {
  if (!(event.ctrlKey || stage.contains(document.activeElement))) return;
  event.preventDefault();
  slide("zoom", -event.deltaY / 1200);
}, { passive: false });

document.getElementById("strip").addEventListener("pointerdown", (event) => {
  const piece = event.target.closest("[data-field]");
  const field = piece && document.getElementById(piece.dataset.field);
  if (!field?.value) return;
  const wide = piece.getBoundingClientRect().width;
  const [, figure, unit] = field.value.match(/^\s*([\d.]+)(.*)$/) ?? [];
  if (!figure) return;
  const from = event.clientX;
  event.preventDefault();

  function drop(up) {
    removeEventListener("pointerup", drop);
    const times = Math.max((wide + up.clientX - from) / wide, 0.05);
    field.value = `${Number((Number(figure) * times).toPrecision(3))}${unit}`;
    changed(field);
  }
  addEventListener("pointerup", drop);
});
