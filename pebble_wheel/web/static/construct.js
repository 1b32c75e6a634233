// What the construction screen cannot do as a plain page: pick a part in the picture, undo, shortcuts.
import { changed } from "./nudge.js";

const MOST_STEPS = 300;
const READING = "[id^=if-]"; // one that is moved while others are held
const form = document.getElementById("yarn");
const place = `pebble-wheel ${location.pathname}`;
const history = { past: [], future: [], field: "", underWay: 0, waiting: null };

const draft = () => document.getElementById("draft").value;

function hold(path) {
  const radio = document.getElementById(`at-${path}`);
  if (!radio || radio.checked) return;
  radio.checked = true;
  changed(radio);
}

/** Note a new draft; changes to one field of one part in a row make one step. */
function note(field) {
  const now = draft();
  const { past } = history;
  if (past.at(-1) !== now) {
    if (field && field === history.field && past.length > 1) past.pop();
    past.push(now);
    if (past.length > MOST_STEPS) past.shift();
    history.future = [];
    history.field = field;
    sessionStorage.setItem(place, now);
  }
  offer();
}

function offer() {
  document.getElementById("undo").disabled = history.past.length < 2;
  document.getElementById("redo").disabled = history.future.length === 0;
}

/** Show a draft of before, or of after: the page is filled anew from it, once what is under way has come. */
function step(from, to, least) {
  if (history.underWay) {
    history.waiting = () => step(from, to, least);
    return;
  }
  if (from.length <= least) return;
  to.push(from.pop());
  offer();
  history.field = "";
  document.getElementById("draft").value = history.past.at(-1);
  document.getElementById("of").value = "";
  changed(form);
}

const undo = () => step(history.past, history.future, 1);
const redo = () => step(history.future, history.past, 0);

document.getElementById("undo").addEventListener("click", undo);
document.getElementById("redo").addEventListener("click", redo);

const before = sessionStorage.getItem(place);
if (before && before !== draft() && performance.getEntriesByType("navigation")[0]?.type === "reload") {
  history.past.push(before);
}
note("");

let field = "";
let moving = null; // a reading not yet sent: an answer under way must not put it back
let wanted = ""; // the part picked last, lest an answer under way puts another one in hand
form.addEventListener("input", (event) => {
  if (event.target.id === "text") event.stopImmediatePropagation();
  if (event.target.matches(READING)) {
    if (event.isTrusted) event.stopImmediatePropagation(); // typed: sent when it is whole
    else moving = { id: event.target.id, value: event.target.value };
  }
  if (event.target.name === "at") wanted = event.target.value;
  field = event.target.matches("[data-nudge], [type=color], [type=range]") ? `${event.target.id} of ${document.getElementById("of").value}` : "";
}, true);

// A request that had to wait takes along what the page holds when it leaves.
document.addEventListener("htmx:before:request", (event) => {
  const { ctx } = event.detail;
  const data = new FormData(form);
  const { name, value, type } = ctx.sourceElement;
  if (type === "submit" && name) data.append(name, value);
  if (wanted) data.set("at", wanted);
  wanted = "";
  if (moving) {
    data.set("do", moving.id);
    data.set(moving.id, moving.value);
  }
  moving = null;
  ctx.request.body = new URLSearchParams(data);
  history.underWay += 1;
});

document.addEventListener("htmx:finally:request", () => {
  history.underWay -= 1;
  const { waiting } = history;
  if (history.underWay || !waiting) return;
  history.waiting = null;
  waiting();
});

document.addEventListener("htmx:after:swap", () => {
  if (moving) document.getElementById(moving.id).value = moving.value;
  note(field);
  const held = document.querySelector("[name=at]:checked");
  held?.parentElement.scrollIntoView({ block: "nearest", inline: "nearest" });
  if (document.activeElement === document.body) held?.focus({ preventScroll: true });
});

document.addEventListener("click", (event) => {
  const part = event.target.closest("#picture [data-part], tr[data-part]");
  if (part) hold(part.dataset.part);
});

form.addEventListener("change", (event) => {
  if (event.target.matches(READING)) changed(event.target);
});

document.addEventListener("keydown", (event) => {
  const { key, target } = event;
  if (event.ctrlKey || event.metaKey) {
    const act = { Enter: () => document.getElementById("keep").click(), z: event.shiftKey ? redo : undo, Z: redo, y: redo }[key];
    if (act && !(target.id === "text" && key !== "Enter")) {
      event.preventDefault();
      act();
    }
    return;
  }
  if (key === "Escape") document.getElementById("why-close")?.click();
  if (target.matches("[name=at]")) document.querySelector(`.act[aria-keyshortcuts="${CSS.escape(key)}"]`)?.click();
});

/** What was typed, or brought back by the browser, before this script stood ready is sent now. */
addEventListener("load", () => {
  const moved = (each) => (each.type === "radio" || each.type === "checkbox" ? each.checked !== each.defaultChecked : each.defaultValue !== undefined && each.value !== each.defaultValue);
  if ([...form.elements].some(moved)) changed(form);
});
