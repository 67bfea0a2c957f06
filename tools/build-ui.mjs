// Copies scripts and fonts out of node_modules into the git-ignored build folder.
import { copyFileSync, mkdirSync } from "node:fs";

const out = "idlebench/web/ui/static/build";
mkdirSync(`${out}/fonts`, { recursive: true });
copyFileSync("node_modules/htmx.org/dist/htmx.min.js", `${out}/htmx.js`);
copyFileSync("node_modules/@alpinejs/csp/dist/cdn.min.js", `${out}/alpine.js`);
// signs that the text fonts have not: Ω, µ, arrows
for (const [family, name] of [["sans", "signs"], ["mono", "signs-mono"]]) {
  copyFileSync(`node_modules/@fontsource/dejavu-${family}/files/dejavu-${family}-latin-400-normal.woff2`, `${out}/fonts/${name}.woff2`);
}
for (const [family, name] of [["next", "text"], ["mono", "mono"]]) {
  for (const weight of [400, 600, 700]) {
    copyFileSync(
      `node_modules/@fontsource/atkinson-hyperlegible-${family}/files/atkinson-hyperlegible-${family}-latin-${weight}-normal.woff2`,
      `${out}/fonts/${name}-${weight}.woff2`,
    );
  }
}
