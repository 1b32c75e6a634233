// Timers for the soak and the rinse, which run on while the page is closed and are found again; reasons.
import { follow } from "./follow.js";
import "./nudge.js";
import { inRelief } from "./stage.js";

const place = (timer) => `pebble-wheel timer ${timer.dataset.timer}`;
const two = (number) => String(number).padStart(2, "0");

function show(timer) {
  const ends = Number(localStorage.getItem(place(timer)));
  const button = timer.querySelector("button");
  const output = timer.querySelector("output");
  const left = Math.ceil((ends - Date.now()) / 1000);
  button.textContent = ends ? "Stop" : `Start ${timer.dataset.minutes} min`;
  if (!ends) output.textContent = "";
  else if (left > 0) output.textContent = `${Math.floor(left / 60)}:${two(left % 60)} to go`;
  else output.textContent = `done ${Math.floor(-left / 60)} min ago`;
  timer.classList.toggle("done", Boolean(ends) && left <= 0);
}

const showAll = () => document.querySelectorAll("[data-timer]").forEach(show);

document.addEventListener("click", (event) => {
  const timer = event.target.closest("[data-timer] button")?.parentElement;
  if (!timer) return;
  if (localStorage.getItem(place(timer))) localStorage.removeItem(place(timer));
  else localStorage.setItem(place(timer), String(Date.now() + Number(timer.dataset.minutes) * 60_000));
  show(timer);
});

const form = document.getElementById("finish");
inRelief(form);
follow(form);

document.addEventListener("keydown", (event) => {
  if (event.key === "Escape") document.getElementById("why-close")?.click();
});

// A moment that the chosen finish does not come to has no words and is not shown; then the dry skein is looked at.
function settle() {
  showAll();
  const at = document.querySelector("[name=at]:checked");
  if (!at.nextElementSibling.textContent.trim()) document.getElementById("at-dried").checked = true;
}

document.addEventListener("htmx:after:swap", settle);
setInterval(showAll, 1000);
showAll();
