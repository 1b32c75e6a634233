// The braid of a lot: its bands dragged, colours added by eye or picked off a photo; the program draws it as it is typed.
const form = document.getElementById("lot");
const braid = document.getElementById("braid");
const colours = document.getElementById("colours");
const lengths = document.getElementById("lengths");
const OWN = ["colours", "lengths", "edges", "order", "seed"];

const words = (field) => field.value.trim().split(/[\s,]+/).filter(Boolean);
let asked = 0;

/** Draw what is typed; an answer that was overtaken is left. */
async function draw() {
  const mine = ++asked;
  const body = new URLSearchParams(OWN.map((name) => [name, form.elements[name].value]));
  const answer = await fetch("/fibre/braid", { method: "POST", body });
  const told = await answer.text();
  if (mine === asked && answer.ok && told.trim()) braid.innerHTML = told;
}

form.addEventListener("input", ({ target }) => OWN.includes(target.name) && draw());
form.querySelector(".braid-do").hidden = false;

/** Return how much there is of each colour, of all alike where nothing is typed. */
function shares() {
  const told = words(lengths).map(Number);
  const many = words(colours).length;
  return told.length === many && told.every((each) => each > 0) ? told : Array(many).fill(1);
}

function spell(values) {
  lengths.value = values.map((each) => Number(each.toPrecision(3))).join(" ");
  draw();
}

braid.addEventListener("pointerdown", (event) => {
  const end = event.target.closest("[data-band]");
  const before = shares();
  const place = Number(end?.dataset.band);
  if (!end || form.elements.order.value !== "turn" || place + 1 >= before.length) return;
  const from = event.clientX;
  const whole = before.reduce((sum, each) => sum + each, 0);
  const scale = whole / braid.querySelector("svg").getBoundingClientRect().width;
  event.preventDefault();

  function move({ clientX }) {
    const least = 0.01 * whole;
    const by = Math.min(Math.max((clientX - from) * scale, least - before[place]), before[place + 1] - least);
    const now = before.slice();
    now[place] += by;
    now[place + 1] -= by;
    spell(now);
  }
  function drop() {
    removeEventListener("pointermove", move);
    removeEventListener("pointerup", drop);
  }
  addEventListener("pointermove", move);
  addEventListener("pointerup", drop);
});

function add(colour) {
  const more = words(lengths).length === words(colours).length && lengths.value ? ` ${shares().at(-1)}` : "";
  colours.value = [...words(colours), colour].join(" ");
  lengths.value += more;
  draw();
}

document.getElementById("add-colour").addEventListener("click", () => add(document.getElementById("another-colour").value));
document.getElementById("drop-colour").addEventListener("click", () => {
  colours.value = words(colours).slice(0, -1).join(" ");
  lengths.value = words(lengths).slice(0, -1).join(" ");
  draw();
});

const photo = document.getElementById("photo");
const pen = photo.getContext("2d", { willReadFrequently: true });
let taps = [];

document.getElementById("braid-photo").addEventListener("change", async ({ target }) => {
  const picture = await createImageBitmap(target.files[0]).catch(() => null);
  if (!picture) return;
  const scale = Math.min(1, 1000 / picture.width);
  photo.width = Math.round(picture.width * scale);
  photo.height = Math.round(picture.height * scale);
  pen.drawImage(picture, 0, 0, photo.width, photo.height);
  photo.hidden = false;
  taps = [];
  photo.scrollIntoView({ block: "nearest" });
});

const REACH = 6; // pixels to each side over which a colour is a mean

function colourAt(x, y) {
  const { data } = pen.getImageData(Math.max(x - REACH, 0), Math.max(y - REACH, 0), 2 * REACH + 1, 2 * REACH + 1);
  const sum = [0, 0, 0];
  for (let place = 0; place < data.length; place += 4) for (const each of [0, 1, 2]) sum[each] += data[place + each];
  return `#${sum.map((each) => Math.round((4 * each) / data.length).toString(16).padStart(2, "0")).join("")}`;
}

/** Each tap is in the middle of a band: a band reaches halfway to its neighbours. */
photo.addEventListener("pointerdown", (event) => {
  const box = photo.getBoundingClientRect();
  const x = Math.round(((event.clientX - box.left) / box.width) * photo.width);
  const y = Math.round(((event.clientY - box.top) / box.height) * photo.height);
  taps.push({ x, y, colour: colourAt(x, y) });
  pen.lineWidth = 3;
  pen.strokeStyle = "#fff";
  pen.strokeRect(x - REACH - 3, y - REACH - 3, 2 * REACH + 6, 2 * REACH + 6);
  colours.value = taps.map((each) => each.colour).join(" ");
  const apart = taps.slice(1).map((each, place) => Math.hypot(each.x - taps[place].x, each.y - taps[place].y) || 1);
  const reach = taps.map((_, place) => ((apart[place - 1] ?? apart[place] ?? 1) + (apart[place] ?? apart[place - 1] ?? 1)) / 2);
  spell(reach);
});
