// The flow taken in hand: a ribbon dragged up or down carries more or less, dropped on another strand it goes there.
import { follow } from "./follow.js";
import { changed } from "./nudge.js";

follow(document.getElementById("plan"));

const field = (lot, strand) => document.getElementById(`share-${lot + 1}-${strand}`);
const row = (lot) => [...document.querySelectorAll(`[id^="share-${lot + 1}-"]`)];

/** Write the shares of a lot as they come to now, so that one of them can be changed. */
function spell(lot) {
  const fields = row(lot);
  if (fields.some((each) => each.value)) {
    for (const each of fields) each.value ||= "0";
    return;
  }
  const comes = document.querySelectorAll(`#comes-${lot + 1} span`);
  fields.forEach((each, place) => {
    each.value = String(Number.parseFloat(comes[place]?.textContent) || 0);
  });
}

document.addEventListener("pointerdown", (event) => {
  const ribbon = event.target.closest?.(".taken");
  if (!ribbon) return;
  const lot = [...document.querySelectorAll("[id^='comes-']")][Number(ribbon.dataset.lot)];
  const at = Number(lot.id.split("-")[1]) - 1;
  const strand = Number(ribbon.dataset.strand);
  const from = event.clientY;
  const scale = Number(ribbon.dataset.scale) * (ribbon.ownerSVGElement.getBoundingClientRect().height / Number(ribbon.ownerSVGElement.dataset.high));
  spell(at);
  const own = field(at, strand);
  const before = Number(own.value);
  event.preventDefault();

  function drop(up) {
    document.removeEventListener("pointerup", drop);
    const onto = document.elementFromPoint(up.clientX, up.clientY)?.closest("[data-into]");
    if (onto && Number(onto.dataset.into) !== strand) {
      const other = field(at, Number(onto.dataset.into));
      other.value = String(Number(other.value) + before);
      own.value = "0";
    } else {
      own.value = String(Math.max(Math.round(before + (up.clientY - from) / scale), 0));
    }
    changed(own);
  }
  document.addEventListener("pointerup", drop);
});
