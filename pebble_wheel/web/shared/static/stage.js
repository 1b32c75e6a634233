// A yarn taken in hand: turned about its axis, brought near, washed, on light or dark ground, its strands picked by
// pointing. It is drawn in relief where the browser can; else what the page holds, an SVG, stays.
import { changed } from "./nudge.js";
import { draw, foreseen, laid, ready, strandsIn } from "./wool.js";

const REST = 150; // ms without a move until all is drawn finely
const AFTERWARDS = 800; // ms from a yarn's first picture until it is made ready to be drawn sharper, and washed
const FETCHED = 6; // yarns kept
const AT = 0.6; // of the width: what stays in its place as one looks closer
const JOINED = 0.36; // of what can be seen, where strands have come together at the latest: a narrow screen begins farther on
const LOUPE = 5; // times as large as on the table
const STILL = 4; // pixels that a finger may move and still point
const LIFE = 96 / 25.4; // CSS pixels to a mm
const GROUNDS = { dark: [0.133, 0.188, 0.169], light: [0.93, 0.94, 0.91] };
const yarns = new Map(); // address: promise of a yarn, the newest last

/** What an address gives. */
async function asked(address) {
  const answer = await fetch(address);
  if (!answer.ok) throw new Error(`${answer.status}`);
  return answer.arrayBuffer();
}

/** What a page gives of it at once, packed. */
async function unpacked(given) {
  const bytes = Uint8Array.from(atob(given), (each) => each.charCodeAt(0));
  return new Response(new Blob([bytes]).stream().pipeThrough(new DecompressionStream("deflate"))).arrayBuffer();
}

function fetched(address, given = "") {
  let found = yarns.get(address);
  yarns.delete(address);
  found ??= (given && "DecompressionStream" in window ? unpacked(given) : asked(address)).then((data) => laid(strandsIn(data)));
  found.catch(() => yarns.delete(address));
  yarns.set(address, found);
  if (yarns.size > FETCHED) yarns.delete(yarns.keys().next().value);
  return found;
}

/** The view of all pictures on a page, and the controls that move it: elements with data-view. */
const view = { turn: 0, near: 2, washed: 0, ground: "dark" };

class Stage {
  constructor(element) {
    this.element = element;
    this.canvas = document.createElement("canvas");
    this.canvas.className = "wool";
    this.canvas.setAttribute("aria-hidden", "true");
    this.ink = this.canvas.getContext("bitmaprenderer");
    element.prepend(this.canvas);
    this.drawn = null;
    this.wanted = "";
    this.still = "still" in element.dataset;
    if (!this.still) this.hand();
    new ResizeObserver(() => this.ask()).observe(element);
    this.follow();
  }

  get svg() {
    return this.element.querySelector("svg[data-strands]");
  }

  /** Take up what the page shows now. */
  follow() {
    const { svg } = this;
    this.element.classList.toggle("without", !svg);
    if (!svg) return;
    const address = svg.dataset.strands;
    if (address === this.wanted) return this.ask();
    this.wanted = address;
    this.far = null;
    fetched(address, svg.dataset.given).then((found) => {
      if (this.wanted !== address) return;
      if (!ready()) return this.element.classList.remove("in-relief");
      this.drawn = found;
      this.element.classList.add("in-relief");
      this.ask();
      setTimeout(() => {
        if (this.wanted !== address) return;
        foreseen(found.yarn);
        this.ask();
      }, AFTERWARDS);
      this.farSoon(address);
    }, () => this.element.classList.remove("in-relief"));
  }

  /** What can be seen from arm's length is asked for while nothing else happens. */
  farSoon(address) {
    if (!("near" in this.element.dataset)) return;
    clearTimeout(this.soon);
    this.soon = setTimeout(() => {
      if (this.wanted !== address) return;
      fetched(`${address}&span=far`).then((found) => {
        if (this.wanted !== address) return;
        this.far = found;
        if (this.scales().far) this.ask();
      }, () => {});
    }, view.near < 1.5 ? 0 : 1200);
  }

  /** Draw soon: coarsely while it moves, finely once it rests. What cannot be turned is drawn after all that can. */
  ask(moving = false) {
    if (this.still) {
      clearTimeout(this.rest);
      this.rest = setTimeout(() => this.show(), 2 * REST);
      return;
    }
    this.moving ||= moving;
    clearTimeout(this.rest);
    if (this.moving) this.rest = setTimeout(() => ((this.moving = false), this.ask()), REST);
    this.frame ??= requestAnimationFrame(() => {
      this.frame = null;
      this.show();
    });
  }

  /** Pixels per mm in units of the SVG, how large those are, and mm at the left edge. */
  scales() {
    const { svg, drawn: { yarn } } = this;
    const { width, height } = svg.viewBox.baseVal;
    const { clientWidth, clientHeight } = this.element;
    const pixels = Math.max(clientWidth / width, clientHeight / height);
    const base = Number(svg.dataset.scale) || yarn.table;
    const life = Math.min(base, LIFE / pixels);
    const near = "near" in this.element.dataset ? view.near : 2;
    const scale = near < 2 ? life * (base / life) ** (near / 2) : base * LOUPE ** ((near - 2) / 2);
    let left = yarn.join[1] - Number(svg.dataset.join) / base;
    if ("near" in this.element.dataset) left += Math.max(0, Number(svg.dataset.join) - JOINED * (clientWidth / pixels)) / base;
    if (scale > base) left += AT * width * (1 / base - 1 / scale);
    return { pixels, base, scale, left, far: scale < 0.62 * yarn.table };
  }

  show() {
    const { svg, canvas, element } = this;
    if (!svg || !this.drawn || !ready() || !element.clientWidth || !element.clientHeight) return;
    const known = this.scales();
    const { pixels, scale, left, base } = known;
    const fine = (this.moving ? 0.5 : 1) * pixels * Math.min(devicePixelRatio, 2);
    const { bloom, thick = 1, length, wet = 0, held = "" } = svg.dataset;
    const washed = bloom === undefined ? view.washed : Number(bloom);
    const drawn = (known.far && this.far) || this.drawn;
    const long = length === undefined ? 1 - drawn.yarn.shorter * washed : Number(length);
    this.shown = { yarn: drawn.yarn, long };
    const picture = draw(drawn, {
      width: Math.max(1, Math.round((element.clientWidth / pixels) * fine)),
      height: Math.max(1, Math.round((element.clientHeight / pixels) * fine)),
      scale: scale * fine,
      left, turned: this.still ? 0 : view.turn, bloom: washed, thick: Number(thick),
      length: long,
      wet: Number(wet), held: held === "yarn" ? "" : held, ground: GROUNDS[view.ground], draft: this.moving,
    });
    if (!picture) return;
    this.ink.transferFromImageBitmap(picture.transferToImageBitmap());
    element.classList.toggle("light", view.ground === "light");
    element.classList.toggle("afar", scale < 0.8 * base);
    ruled(svg, scale);
    if (!("near" in element.dataset)) return;
    for (const each of document.querySelectorAll("[data-times]")) each.textContent = times((scale * pixels) / LIFE);
  }

  hand() {
    const { element } = this;
    const fingers = new Map();
    let moved = 0;
    const apart = () => {
      const [a, b] = [...fingers.values()];
      return Math.hypot(a.x - b.x, a.y - b.y);
    };
    element.addEventListener("pointerdown", (event) => {
      if (event.target.closest("[data-grip]") || !this.drawn || !this.svg) return;
      fingers.set(event.pointerId, { x: event.clientX, y: event.clientY });
      moved = 0;
    });
    element.addEventListener("pointermove", (event) => {
      const last = fingers.get(event.pointerId);
      if (!last) return;
      const now = { x: event.clientX, y: event.clientY };
      const { yarn } = this.drawn;
      const before = fingers.size > 1 ? apart() : 0;
      moved += Math.hypot(now.x - last.x, now.y - last.y);
      fingers.set(event.pointerId, now);
      if (moved < STILL) return;
      if (!element.hasPointerCapture(event.pointerId)) element.setPointerCapture(event.pointerId);
      if (fingers.size > 1) change("near", view.near + Math.log2(apart() / Math.max(before, 1)));
      else {
        const { scale, pixels } = this.scales();
        change("turn", view.turn + (now.y - last.y) / Math.max((yarn.thick / 2) * scale * pixels, 24));
      }
    });
    const let_ = (event) => {
      const held = fingers.delete(event.pointerId);
      if (held && event.type === "pointerup" && moved < STILL) this.point(event);
    };
    element.addEventListener("pointerup", let_);
    element.addEventListener("pointercancel", let_);
    element.addEventListener("wheel", (event) => {
      if (!("near" in element.dataset) || !this.drawn || !(event.ctrlKey || element.contains(document.activeElement))) return;
      event.preventDefault();
      change("near", view.near - event.deltaY / 400);
    }, { passive: false });
    element.addEventListener("keydown", (event) => {
      if (event.target !== element) return;
      const act = {
        ArrowUp: () => change("turn", view.turn - 0.1), ArrowDown: () => change("turn", view.turn + 0.1),
        "+": () => change("near", view.near + 0.2), "-": () => change("near", view.near - 0.2),
        w: () => change("washed", view.washed < 0.5 ? 1 : 0, true), g: () => change("ground", view.ground === "dark" ? "light" : "dark"),
      }[event.key];
      if (!act || event.ctrlKey || event.metaKey) return;
      event.preventDefault();
      act();
    });
  }

  /** Tell which strand lies under the pointer. */
  point(event) {
    if (!this.shown) return;
    const { yarn, long } = this.shown;
    const { scale, pixels, left } = this.scales();
    const box = this.element.getBoundingClientRect();
    const x = (left + (event.clientX - box.left) / pixels / scale) / long;
    const y = (box.top + box.height / 2 - event.clientY) / pixels / scale;
    const [cos, sin] = [Math.cos(view.turn), Math.sin(view.turn)];
    let nearest = { z: -Infinity, part: "" };
    for (const strand of yarn.strands) {
      for (let i = 0; i < strand.samples; i += 1) {
        const off = Math.hypot(strand.x[i] - x, cos * strand.y[i] - sin * strand.z[i] - y);
        const z = sin * strand.y[i] + cos * strand.z[i] + Math.sqrt(Math.max(strand.r[i] ** 2 - off ** 2, 0));
        if (off < strand.r[i] && z > nearest.z) nearest = { z, part: strand.part };
      }
    }
    if (nearest.part) this.element.dispatchEvent(new CustomEvent("pick", { bubbles: true, detail: nearest.part }));
  }
}

const times = (many) => (many >= 1.5 ? many.toFixed(0) : many >= 0.95 ? "1" : many.toFixed(1));

/** Rule the picture anew where it is drawn at another scale than the page's. */
function ruled(svg, scale) {
  const ruler = svg.querySelector(".ruler[data-labels]");
  if (!ruler || ruler.dataset.scale === String(scale)) return;
  ruler.dataset.scale = scale;
  const { labels, unit, small, coarser, name } = ruler.dataset;
  const { width, height } = svg.viewBox.baseVal;
  const perUnit = Number(unit) * scale;
  const steps = labels.split(" ").map((each) => each.split("="));
  let tick = Number(small);
  while (tick * perUnit < 5) tick *= Number(coarser);
  const base = height - 20;
  const all = steps.map(([value]) => Number(value));
  const every = all.find((each) => each * perUnit >= 42) ?? all.at(-1);
  let line = `M0 ${base}H${width}`;
  const texts = [[4, name]];
  for (let number = 0; number * tick * perUnit < width; number += 1) {
    const value = number * tick;
    const x = value * perUnit;
    const labelled = Math.abs(value / every - Math.round(value / every)) < 1e-6;
    line += `M${x.toFixed(1)} ${base}v${labelled ? 9 : 4}`;
    if (labelled && number && x < width - 20) texts.push([x, written(value, name)]);
  }
  ruler.querySelector("path").setAttribute("d", line);
  ruler.querySelectorAll("text").forEach((each) => each.remove());
  for (const [x, said] of texts) {
    const text = document.createElementNS("http://www.w3.org/2000/svg", "text");
    text.setAttribute("x", x);
    text.setAttribute("y", base + 19);
    if (said !== name) text.setAttribute("text-anchor", "middle");
    text.textContent = said;
    ruler.append(text);
  }
}

const FRACTIONS = { 1: "1/16", 2: "⅛", 4: "¼", 6: "⅜", 8: "½", 10: "⅝", 12: "¾", 14: "⅞" };

function written(value, name) {
  if (name !== "in") return String(Number(value.toPrecision(4)));
  const parts = Math.round(value * 16);
  return `${Math.floor(parts / 16) || ""}${parts % 16 ? (FRACTIONS[parts % 16] ?? `${parts % 16}/16`) : ""}`;
}

const stages = [];

function change(what, value, smoothly = false) {
  const [low, high] = { near: [0, 4], washed: [0, 1] }[what] ?? [-Infinity, Infinity];
  const wanted = typeof value === "number" ? Math.min(Math.max(value, low), high) : value;
  if (smoothly && !matchMedia("(prefers-reduced-motion: reduce)").matches) {
    const [from, began] = [view[what], performance.now()];
    const step = (now) => {
      const share = Math.min(1, (now - began) / 700);
      change(what, from + (wanted - from) * share * share * (3 - 2 * share));
      if (share < 1) requestAnimationFrame(step);
    };
    requestAnimationFrame(step);
    return;
  }
  view[what] = wanted;
  for (const each of document.querySelectorAll(`[data-view="${what}"]`)) {
    if (each.type === "range") each.value = what === "turn" ? (((((wanted * 180) / Math.PI) % 360) + 540) % 360) - 180 : wanted;
    else each.setAttribute("aria-pressed", wanted === "light" || wanted === 1);
  }
  for (const each of stages) if (!each.still || what === "ground") each.ask(typeof wanted === "number");
}

/** Draw the yarns of a page in relief, and keep them so over answers to its form; where that cannot be, change nothing. */
export function inRelief(form) {
  if (!ready()) return;
  form.dataset.relief = "yes";
  for (const element of document.querySelectorAll(".stage")) stages.push(new Stage(element));
  for (const each of document.querySelectorAll(".hands")) each.hidden = false;
  for (const each of document.querySelectorAll("#reach")) each.disabled = each.parentElement.hidden = true;
  for (const each of document.querySelectorAll("[data-view]")) {
    const what = each.dataset.view;
    each.addEventListener(each.type === "range" ? "input" : "click", (event) => {
      event.stopPropagation();
      if (each.type === "range") change(what, Number(each.value) * (what === "turn" ? Math.PI / 180 : 1));
      else change(what, view[what] === "dark" ? "light" : "dark");
    });
  }
  document.addEventListener("htmx:after:swap", () => stages.forEach((each) => each.follow()));
  addEventListener("beforeprint", () => stages.forEach((each) => each.show()));
  document.addEventListener("wool:lost", () => {
    delete form.dataset.relief;
    for (const { element } of stages) element.classList.remove("in-relief");
    changed(form); // the page draws it again
  });
}
