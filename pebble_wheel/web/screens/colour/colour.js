// Colours: the yarn is drawn close where one points along it, and preparations of all strands are chosen at once.
import { follow } from "./follow.js";
import { changed } from "./nudge.js";
import { inRelief } from "./stage.js";

const form = document.getElementById("colour");
inRelief(form);
follow(form);

const share = document.getElementById("at-share");
const at = document.getElementById("at");

function look(where) {
  share.value = String(where);
  at.value = `${(where * Number(share.dataset.metres)).toFixed(3)} m`;
  changed(at);
}

share.addEventListener("input", (event) => {
  event.stopPropagation();
  look(Number(share.value));
});

/** The strip is laid in lines: where one points is a place of the yarn. */
document.getElementById("strip").addEventListener("pointerdown", (event) => {
  const svg = event.currentTarget.querySelector("svg");
  const box = svg.getBoundingClientRect();
  const lines = Number(svg.dataset.lines);
  const line = Math.min(Math.floor(((event.clientY - box.top) / box.height) * lines), lines - 1);
  const along = Math.min(Math.max((event.clientX - box.left) / box.width, 0), 1);
  look((line + along) / lines);
});

const PRESETS = {
  alike: () => ["whole", ""],
  ends: (place) => [place % 2 ? "other-end" : "whole", ""],
  fractal: (place) => (place % 3 ? ["strips", place % 3 === 1 ? "3" : "9"] : ["whole", ""]),
};

for (const button of document.querySelectorAll("[data-preset]")) {
  button.addEventListener("click", () => {
    const ways = [...form.querySelectorAll("[name^='way-']")];
    ways.forEach((each, place) => {
      const [way, parts] = PRESETS[button.dataset.preset](place);
      each.value = way;
      document.getElementById(`parts-${place}`).value = parts;
    });
    if (ways.length) changed(ways[0]);
  });
}
