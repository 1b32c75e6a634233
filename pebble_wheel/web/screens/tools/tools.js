// Tools: only the fields of the kind chosen, and a count of turns for fifteen seconds that writes itself into its field.
const form = document.getElementById("another");

function kinds() {
  const kind = new FormData(form).get("kind");
  for (const each of form.querySelectorAll(".tool-kind")) each.hidden = !each.dataset.kind.split(" ").includes(kind);
}

form.addEventListener("change", ({ target }) => target.name === "kind" && kinds());

const dialog = document.querySelector(".counting");
const long = Number(dialog.dataset.seconds);
let into = null;
let turns = 0;
let began = 0;
let ticking = 0;

function show() {
  const left = began ? Math.max(long - (performance.now() - began) / 1000, 0) : long;
  dialog.querySelector(".counting-clock").textContent = `${left.toFixed(0)} s`;
  dialog.querySelector(".counting-turns").textContent = String(turns);
  if (began && left <= 0) finish();
}

function finish() {
  clearInterval(ticking);
  into.value = String(turns);
  dialog.close();
  into.focus();
}

/** The first turn starts the clock and is not counted: a turn is from one passing to the next. */
function one() {
  if (began) turns += 1;
  else {
    began = performance.now();
    ticking = setInterval(show, 100);
  }
  show();
}

for (const button of form.querySelectorAll("[data-count]")) {
  button.hidden = false;
  button.addEventListener("click", () => {
    into = document.getElementById(button.dataset.count);
    turns = 0;
    began = 0;
    dialog.showModal();
    show();
  });
}
document.getElementById("counted-one").addEventListener("click", one);
document.getElementById("counted-off").addEventListener("click", () => dialog.close());
dialog.addEventListener("close", () => clearInterval(ticking));
