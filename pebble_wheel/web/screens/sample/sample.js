// The wedge that is turned until it looks like the yarn, and how large the strands are shown side by side.
import "./life.js";
import "./nudge.js";

const WIDE = 300, HIGH = 60, THICK = 40, STRANDS = 14;
const wedge = document.querySelector(".wedge-turn");
const turn = document.getElementById("turn");
const angle = document.getElementById("angle");
const picture = wedge.querySelector("svg");
const crosswise = wedge.dataset.crosswise === "yes";

/** Draw a yarn whose strands lean so. */
function lean(degrees) {
  const fromAxis = ((crosswise ? 90 - degrees : degrees) * Math.PI) / 180;
  const along = Math.min(THICK / Math.tan(fromAxis), 4000);
  const down = wedge.dataset.leans === "z" ? 1 : -1;
  const apart = Math.max(WIDE / STRANDS, 4);
  const lines = [];
  for (let x = -Math.ceil(along / apart) * apart; x < WIDE + along; x += apart) {
    const [from, to] = down > 0 ? [x, x + along] : [x + along, x];
    lines.push(`M${from.toFixed(1)} ${(HIGH - THICK) / 2}L${to.toFixed(1)} ${(HIGH + THICK) / 2}`);
  }
  picture.innerHTML = `<rect class="body" x="0" y="${(HIGH - THICK) / 2}" width="${WIDE}" height="${THICK}"/><path class="lean" d="${lines.join("")}"/><path class="axis" d="M0 ${HIGH / 2}H${WIDE}"/>`;
}

function shown() {
  const typed = Number.parseFloat(angle.value.replace(",", "."));
  return Number.isFinite(typed) ? Math.min(Math.max(typed, 1), 89) : Number(turn.value);
}

turn.addEventListener("input", () => {
  angle.value = turn.value;
  lean(Number(turn.value));
});
angle.addEventListener("input", () => {
  turn.value = String(shown());
  lean(shown());
});
lean(shown());

document.addEventListener("change", (event) => {
  if (event.target.name === "times") document.documentElement.style.setProperty("--times", event.target.value);
  if (event.target.name === "slot") document.getElementById("gauge").value = "";
});
document.getElementById("gauge").addEventListener("input", () => {
  document.querySelectorAll("[name=slot]:checked").forEach((each) => {
    each.checked = false;
  });
});
