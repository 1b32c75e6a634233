// Nudging figures and keeping by keyboard: what a plain form cannot do.

/** A step of 1, 2 or 5 in some decade, at most a twentieth of the figure. */
function stepFor(value) {
  const rough = Math.max(Math.abs(value), 1e-3) * 0.05;
  const decade = 10 ** Math.floor(Math.log10(rough));
  return [5, 2, 1].find((part) => part * decade <= rough * 1.001) * decade;
}

/** Move the number at the head of a field, leaving whatever unit follows it. */
function nudge(field, by) {
  const found = field.value.match(/^\s*(\d+(?:[.,]\d+)?)(.*)$/s);
  if (!found) return;
  const value = Number(found[1].replace(",", "."));
  const step = stepFor(value);
  const moved = Math.max((Math.round(value / step) + by) * step, step);
  const places = Math.max(0, -Math.floor(Math.log10(step)));
  field.value = moved.toFixed(places) + found[2];
  field.dispatchEvent(new Event("input", { bubbles: true }));
}

document.addEventListener("click", (event) => {
  const button = event.target.closest(".step");
  if (button) nudge(document.getElementById(button.dataset.for), Number(button.dataset.by));
});

document.addEventListener("keydown", (event) => {
  if (event.target.matches("[data-nudge]") && (event.key === "ArrowUp" || event.key === "ArrowDown")) {
    event.preventDefault();
    nudge(event.target, (event.key === "ArrowUp" ? 1 : -1) * (event.shiftKey ? 5 : 1));
  }
  if (event.key === "Enter" && event.ctrlKey) document.getElementById("keep").click();
});
