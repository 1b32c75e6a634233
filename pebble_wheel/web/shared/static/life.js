// Life size on this screen: pixels to a mm, found once for each device against a card of ISO/IEC 7810 ID-1.
const KEPT = "pebble-wheel px per mm";
const NOMINAL = 96 / 25.4;

/** Return the pixels to a mm of this screen. */
export function pxPerMm() {
  const kept = Number(localStorage.getItem(KEPT));
  return kept >= 2 && kept <= 16 ? kept : NOMINAL;
}

function show() {
  document.documentElement.style.setProperty("--px-per-mm", `${pxPerMm()}px`);
}

const slider = document.getElementById("px-per-mm");
if (slider) {
  slider.value = String(pxPerMm());
  slider.addEventListener("input", () => {
    localStorage.setItem(KEPT, slider.value);
    show();
  });
}
show();
