// Sections follow what is typed; figures are nudged by keys, and a section dragged in the strip is made longer or shorter.
import { follow } from "./follow.js";
import { changed } from "./nudge.js";

follow(document.getElementById("texture"));

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
