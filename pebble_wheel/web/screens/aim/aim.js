// What the aiming screen cannot do as a plain page: take hold of the yarn's edge, its angle and its loop.
import { follow } from "./follow.js";
import { changed } from "./nudge.js";
import { inRelief } from "./stage.js";

const form = document.getElementById("aim");
const MM_PER_INCH = 25.4;
const PER_DEGREE = 7; // of softness to firmness, about what a degree of lean takes
const PER_PIXEL = 0.003; // of the ratio to balance
const held = { grip: null };

const field = (name) => document.getElementById(name);
const within = (input, value) => Math.min(Math.max(value, Number(input.min)), Number(input.max));

/** Write a diameter in mm into the size, in the measure that stands there. */
function thick(mm) {
  const size = field("size");
  const unit = (size.value.match(/[A-Za-z/].*$/) ?? ["wpi"])[0].trim();
  const snug = held.wraps / (MM_PER_INCH / held.across); // wraps counted where one relaxed wrap lies
  const shown = { mm, wpi: (snug * MM_PER_INCH) / mm, in: mm / MM_PER_INCH }[unit] ?? (snug * MM_PER_INCH) / mm;
  size.value = `${Number(shown.toPrecision(3))} ${unit in { mm, in: mm } ? unit : "wpi"}`;
  changed(size);
}

/** Where the pointer is on the yarn: mm from its middle, and its angle seen from where the arms meet. */
function place(event) {
  const svg = document.querySelector("#picture .yarn");
  const { middle, apex } = document.querySelector("#picture .grasp").dataset;
  const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
  const off = Math.abs(at.y - Number(middle));
  return { off, lean: (Math.atan2(off, Math.max(at.x - Number(apex), 1)) * 180) / Math.PI };
}

document.querySelector(".aimed").addEventListener("pointerdown", (event) => {
  const grip = event.target.closest("[data-grip]");
  if (!grip) return;
  event.preventDefault();
  const drawn = document.querySelector("#picture .grasp").dataset;
  const number = Number((field("size").value.match(/[\d.,]+/) ?? ["0"])[0].replace(",", "."));
  Object.assign(held, { grip: grip.dataset.grip, x: event.clientX, from: place(event), scale: Number(drawn.scale), across: Number(drawn.across) });
  held.wraps = /wpi|^[\d.,\s]+$/.test(field("size").value) ? number : MM_PER_INCH / held.across;
  held.start = Number(field(held.grip).value);
  document.body.classList.add("dragging");
});

addEventListener("pointermove", (event) => {
  if (!held.grip) return;
  if (held.grip === "size") return thick(Math.max((2 * place(event).off) / held.scale, 0.1));
  const input = field(held.grip);
  const moved = held.grip === "firm" ? (place(event).lean - held.from.lean) * PER_DEGREE : (event.clientX - held.x) * PER_PIXEL;
  const value = String(within(input, held.start + moved));
  if (value === input.value) return;
  input.value = value;
  changed(input);
});

addEventListener("pointerup", () => {
  if (!held.grip) return;
  const { grip } = held;
  held.grip = null;
  document.body.classList.remove("dragging");
  changed(field(grip)); // once more, now that the picture may change its scale
});

// A weight class is a size: it is written where the size stands.
field("class").addEventListener("input", (event) => {
  event.stopPropagation();
  if (!event.target.value) return;
  field("size").value = event.target.value;
  event.target.value = "";
  changed(field("size"));
});

document.addEventListener("keydown", (event) => {
  if (event.key === "Escape") document.getElementById("why-close")?.click();
});

inRelief(form);
follow(form, {
  adds(data) {
    if (held.grip) data.set("scale", held.scale);
  },
});

/** The address holds the aim, so that it can be kept, shared and come back to. */
document.addEventListener("htmx:after:swap", () => {
  history.replaceState(null, "", `/aim?${new URLSearchParams(new FormData(form))}`);
});
