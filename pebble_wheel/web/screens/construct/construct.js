// What the construction screen cannot do as a plain page: pick a part in the picture, undo, shortcuts.
import { follow } from "./follow.js";
import { changed } from "./nudge.js";
import { inRelief } from "./stage.js";

const MOST_STEPS = 300;
const READING = "[id^=if-]"; // one that is moved while others are held
const form = document.getElementById("yarn");
const place = `pebble-wheel ${location.pathname}`;
const history = { past: [], future: [], field: "" };
let moving = ""; // the reading moved last, not yet sent
let undone = null; // the fields that a draft brought back has not yet filled anew, and since when

const { whenQuiet, mark, usedSince } = follow(form, {
  adds(data) {
    if (moving) data.set("move", moving);
    moving = "";
    if (undone?.of !== document.getElementById("of")) return;
    data.set("refill", "yes");
    const fields = [...document.querySelectorAll("#hand :is(input:not([type=hidden], #together), select), #finish select")];
    const since = new Set(fields.filter((each) => usedSince(each, undone.since)).map((each) => each.name));
    for (const { name } of fields) if (!since.has(name)) data.delete(name);
  },
  later: ({ target, isTrusted }) => isTrusted && target.matches(READING),
});

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

/** Show a draft of before, or of after: the page is filled anew from it. */
function step(from, to, least) {
  if (from.length <= least) return;
  to.push(from.pop());
  offer();
  history.field = "";
  document.getElementById("draft").value = history.past.at(-1);
  undone = { of: document.getElementById("of"), since: mark() };
  changed(form);
}

const undo = () => whenQuiet(() => step(history.past, history.future, 1));
const redo = () => whenQuiet(() => step(history.future, history.past, 0));

document.getElementById("undo").addEventListener("click", undo);
document.getElementById("redo").addEventListener("click", redo);

const before = sessionStorage.getItem(place);
if (before && before !== draft() && performance.getEntriesByType("navigation")[0]?.type === "reload") {
  history.past.push(before);
}
note("");

let field = "";
form.addEventListener("input", (event) => {
  if (event.target.id === "text") event.stopImmediatePropagation();
  if (event.target.matches(READING)) {
    if (event.isTrusted) event.stopImmediatePropagation(); // typed: sent when it is whole
    else moving = event.target.id;
  }
  field = event.target.matches("[data-nudge], [type=color], [type=range]") ? `${event.target.id} of ${document.getElementById("of").value}` : "";
}, true);

document.addEventListener("htmx:after:swap", () => {
  note(field);
  const held = document.querySelector("[name=at]:checked");
  held?.parentElement.scrollIntoView({ block: "nearest", inline: "nearest" });
  if (document.activeElement === document.body) held?.focus({ preventScroll: true });
});

inRelief(form);
document.querySelector(".stage").addEventListener("pick", ({ detail }) => hold(detail));

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
    const act = { z: event.shiftKey ? redo : undo, Z: redo, y: redo }[key];
    if (act && target.id !== "text") {
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
