// Copies scripts, fonts and their licences out of node_modules into the git-ignored build folder, and makes pages of the guide.
import { copyFileSync, existsSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { marked } from "marked";

const out = "idlebench/web/ui/static/build";
rmSync(`${out}/licences`, { recursive: true, force: true });
mkdirSync(`${out}/fonts`, { recursive: true });
mkdirSync(`${out}/licences`, { recursive: true });
copyFileSync("node_modules/htmx.org/dist/htmx.min.js", `${out}/htmx.js`);
copyFileSync("node_modules/@alpinejs/csp/dist/cdn.min.js", `${out}/alpine.js`);
// browsers read woff2; PDF sheets read woff, which is unpacked far faster
const font = (family, file, name) => {
  for (const kind of ["woff2", "woff"]) {
    copyFileSync(`node_modules/@fontsource/${family}/files/${family}-latin-${file}-normal.${kind}`, `${out}/fonts/${name}.${kind}`);
  }
};
// signs that the text fonts have not: Ω, µ, arrows
for (const [family, name] of [["sans", "signs"], ["mono", "signs-mono"]]) font(`dejavu-${family}`, 400, name);
for (const [family, name] of [["next", "text"], ["mono", "mono"]]) {
  for (const weight of [400, 600, 700]) font(`atkinson-hyperlegible-${family}`, weight, `${name}-${weight}`);
}

// what of others goes along, and on which terms
const ours = JSON.parse(readFileSync("package.json", "utf8")).dependencies;
const uses = { "htmx.org": "script", "@alpinejs/csp": "script", tailwindcss: "first rules of the stylesheet" };
const mit = readFileSync("node_modules/tailwindcss/LICENSE", "utf8");
const list = [];
for (const name of Object.keys(ours).filter((name) => name !== "@tailwindcss/cli")) {
  const told = JSON.parse(readFileSync(`node_modules/${name}/package.json`, "utf8"));
  const file = `node_modules/${name}/LICENSE`;
  let text;
  if (existsSync(file)) text = readFileSync(file, "utf8");
  else if (told.license === "MIT") text = mit.replace(/^Copyright.*$/m, `Copyright (c) ${told.author.name ?? told.author} and contributors`);
  else throw new Error(`${name} has no licence file, and its licence is ${told.license}`);
  const as = `${name.replace(/^@/, "").replace("/", "-")}.txt`;
  writeFileSync(`${out}/licences/${as}`, text);
  list.push({ name, version: told.version, licence: told.license, what: uses[name] ?? "font", file: as });
}
writeFileSync(`${out}/licences/licences.json`, JSON.stringify(list, null, 1) + "\n");

// the guide: each page a fragment that the program frames, its pictures beside it
const guide = `${out}/guide`;
rmSync(guide, { recursive: true, force: true });
mkdirSync(guide, { recursive: true });
const order = ["index", "intake", "survey", "choose", "gather", "swap", "cold-checks", "first-power", "suspects", "hand-over", "keeping", "command-line"];
const there = readdirSync("docs/guide").map((file) => file.replace(/\.md$/, ""));
if (order.slice().sort().join() !== there.sort().join()) throw new Error(`pages of the guide: read ${there}, expected ${order}. Name each in build-ui.mjs.`);
const pages = order.map((name) => {
  const text = readFileSync(`docs/guide/${name}.md`, "utf8");
  for (const [, picture] of text.matchAll(/\]\(\.\.\/screenshots\/([\w-]+\.png)\)/g)) copyFileSync(`docs/screenshots/${picture}`, `${guide}/${picture}`);
  const title = /^# (.+)$/m.exec(text)[1];
  const body = marked.parse(text.replace(/^# .+$/m, "").replaceAll("../screenshots/", "/static/build/guide/"));
  return { name, title, body, text: text.replace(/[#*`|]|!?\[|\]\([^)]*\)/g, " ").replace(/\s+/g, " ") };
});
writeFileSync(`${guide}/pages.json`, JSON.stringify(pages) + "\n");
