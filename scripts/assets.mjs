// Builds the stylesheet and copies the scripts and fonts that the application ships into its static folder.
import { execFileSync } from "node:child_process";
import { copyFileSync } from "node:fs";

const modules = "node_modules";
const target = "pebble_wheel/web/static";

execFileSync(
  process.execPath,
  [`${modules}/@tailwindcss/cli/dist/index.mjs`, "-i", "pebble_wheel/web/pebble.css", "-o", `${target}/pebble.css`, "--minify"],
  { stdio: ["ignore", "ignore", "inherit"] },
);
const copies = {
  "htmx.org/dist/htmx.min.js": "htmx.js",
  "@fontsource-variable/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-wght-normal.woff2": "atkinson.woff2",
  "@fontsource/young-serif/files/young-serif-latin-400-normal.woff2": "young-serif.woff2",
};
for (const [from, to] of Object.entries(copies)) copyFileSync(`${modules}/${from}`, `${target}/${to}`);
