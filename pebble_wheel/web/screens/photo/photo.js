// Marks in a photo are dragged by finger or mouse and walked by keys, under a loupe; the page says what they come to.
import { follow } from "./follow.js";
import { changed } from "./nudge.js";

const form = document.getElementById("marks");
const stage = document.getElementById("stage");
const photo = document.getElementById("photo");
const loupe = document.getElementById("loupe");
const CLOSER = 4; // times, in the loupe
let held = null; // what is dragged: the fields of a handle

follow(form);

const field = (name) => document.getElementById(name);
const number = (name) => Number(field(name).value);

/** Where an event lies in the picture, in its pixels. */
function at(event) {
  const box = photo.getBoundingClientRect();
  const times = Number(stage.dataset.wide) / box.width;
  return [(event.clientX - box.left) * times, (event.clientY - box.top) * times];
}

/** Put a mark at a place: a point, or how far along or across the line of the yarn. */
function put({ x, y, along, across }, [left, top]) {
  const name = x || along || across;
  if (x) {
    field(x).value = left.toFixed(1);
    field(y).value = top.toFixed(1);
  } else {
    const [px, py, qx, qy] = ["px", "py", "qx", "qy"].map(number);
    const long = Math.hypot(qx - px, qy - py);
    const [u, v] = [(qx - px) / long, (qy - py) / long];
    const far = along ? (left - px) * u + (top - py) * v : (top - py) * u - (left - px) * v;
    field(name).value = far.toFixed(1);
  }
  changed(field(name));
}

function look([x, y]) {
  const pen = loupe.getContext("2d");
  const size = loupe.width / CLOSER;
  pen.fillRect(0, 0, loupe.width, loupe.height);
  pen.drawImage(photo, x - size / 2, y - size / 2, size, size, 0, 0, loupe.width, loupe.height);
  pen.strokeStyle = "#fff";
  pen.beginPath();
  pen.moveTo(loupe.width / 2, 0);
  pen.lineTo(loupe.width / 2, loupe.height);
  pen.moveTo(0, loupe.height / 2);
  pen.lineTo(loupe.width, loupe.height / 2);
  pen.stroke();
  loupe.hidden = false;
  loupe.classList.toggle("left", x > Number(stage.dataset.wide) / 2);
}

stage.addEventListener("pointerdown", (event) => {
  const handle = event.target.closest(".mark-handle");
  if (!handle) return;
  event.preventDefault();
  held = { ...handle.dataset };
  stage.setPointerCapture(event.pointerId);
  look(at(event));
});
stage.addEventListener("pointermove", (event) => {
  if (!held) return;
  look(at(event));
  put(held, at(event));
});
for (const end of ["pointerup", "pointercancel"]) {
  stage.addEventListener(end, () => {
    held = null;
    loupe.hidden = true;
  });
}

const WALKS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
let walked = "";

stage.addEventListener("keydown", (event) => {
  const handle = event.target.closest(".mark-handle");
  const walk = WALKS[event.key];
  if (!handle || !walk) return;
  event.preventDefault();
  const step = event.shiftKey ? 10 : 1;
  const { x, y, along, across } = handle.dataset;
  walked = x || along || across;
  if (x) {
    field(x).value = (number(x) + step * walk[0]).toFixed(1);
    field(y).value = (number(y) + step * walk[1]).toFixed(1);
  } else field(walked).value = (number(walked) + step * (along ? walk[0] + walk[1] : walk[1] + walk[0])).toFixed(1);
  changed(field(walked));
});

/** A handle that is walked by keys stays in hand when its drawing is renewed. */
document.addEventListener("htmx:after:swap", () => {
  if (!walked || document.activeElement?.closest(".mark-handle")) return;
  if (document.activeElement === document.body) {
    stage.querySelector(`[data-x="${walked}"], [data-along="${walked}"], [data-across="${walked}"]`)?.focus();
  }
});

for (const button of form.querySelectorAll("[name=do][value=look]")) {
  button.addEventListener("click", () => {
    document.querySelector(".looking").hidden = false;
  });
}
