// Builds the stylesheet and copies the scripts and fonts that the application ships into its static folder.
// With --compare nothing is written: it fails where the shipped files are not what the sources make.
import { execFileSync } from "node:child_process";
import { copyFileSync, mkdtempSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";

const modules = "node_modules";
const shipped = "pebble_wheel/web/shared/static";
const compare = process.argv.includes("--compare");
const target = compare ? mkdtempSync(join(tmpdir(), "assets-")) : shipped;

const copies = {
  "htmx.js": "htmx.org/dist/htmx.min.js",
  "atkinson.woff2": "@fontsource-variable/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-wght-normal.woff2",
  "young-serif.woff2": "@fontsource/young-serif/files/young-serif-latin-400-normal.woff2",
};
for (const [name, from] of Object.entries(copies)) copyFileSync(join(modules, from), join(target, name));
execFileSync(
  process.execPath,
  [join(modules, "@tailwindcss/cli/dist/index.mjs"), "-i", "pebble_wheel/web/shared/pebble.css", "-o", join(target, "pebble.css"), "--minify"],
  { stdio: ["ignore", "ignore", "inherit"] },
);
if (compare) {
  const stale = ["pebble.css", ...Object.keys(copies)].filter(
    (name) => !readFileSync(join(target, name)).equals(readFileSync(join(shipped, name))),
  );
  rmSync(target, { recursive: true });
  if (stale.length) {
    console.error(`not what the sources make: ${stale.join(", ")}; run make assets`);
    process.exit(1);
  }
}
