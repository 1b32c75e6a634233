// A round of practice: keys choose, the line on the yarn turns with the slider, and the yarn is drawn in relief.
import "./life.js";
import { inRelief } from "./stage.js";

const form = document.getElementById("practice");
const slider = document.getElementById("turn");
const given = document.getElementById("given");
const crosswise = form.dataset.crosswise === "yes";

inRelief(form);

/** Lay the line on the yarn as the figure says. */
function turn() {
  const group = document.querySelector(".turned.asked");
  const figure = Number.parseFloat(given.value.replace(",", "."));
  if (!group || !Number.isFinite(figure)) return;
  const fromAxis = crosswise ? 90 - figure : figure;
  group.querySelector(".turned-line").setAttribute("transform", `rotate(${group.dataset.z === "yes" ? fromAxis : -fromAxis})`);
}

slider?.addEventListener("input", () => {
  given.value = slider.value;
  turn();
});
given?.addEventListener("input", () => {
  slider.value = given.value.replace(",", ".");
  turn();
});
if (given) turn();

document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || event.target.matches("#given")) return;
  const chosen = form.querySelectorAll(".practised-choices button")[Number(event.key) - 1];
  if (chosen) chosen.click();
  else if (event.key === "Enter" && slider && event.target === slider) form.requestSubmit();
});
