// Writes docs/licences.md: what Vuoto needs to run, each package with its version and licence. Fails where a licence is none
// of those that go with MIT.
import fs from "node:fs";
import path from "node:path";
import { root } from "./setup.mjs";

const fine = new Set([
  "MIT",
  "MIT-0",
  "ISC",
  "BSD-2-Clause",
  "BSD-3-Clause",
  "0BSD",
  "Apache-2.0",
  "BlueOak-1.0.0",
  "CC0-1.0",
  "CC-BY-4.0",
  "Unlicense",
  "Zlib",
  "OFL-1.1",
  "Python-2.0",
  "MPL-2.0",
  "LGPL-3.0-or-later",
  "LGPL-2.1-or-later",
  "LGPL-3.0",
]);

/** Those that say it in a text of their own: read, and what it is. */
const read = {
  "7z-wasm": "LGPL-2.1-or-later, with parts under BSD-3-Clause and the unRAR restriction",
  duck: "BSD-2-Clause",
};

/** Whether one of several alternatives is fine, or all that hold together are. */
const goes = (licence) =>
  licence
    .replace(/[()]/g, "")
    .split(/ OR /)
    .some((one) => one.split(/ AND /).every((part) => fine.has(part.trim())));

const { packages } = JSON.parse(fs.readFileSync(path.join(root, "package-lock.json"), "utf8"));
const rows = new Map();
const wrong = [];
for (const [place, entry] of Object.entries(packages)) {
  if (place === "" || entry.dev || entry.devOptional) continue;
  const name = place.slice(place.lastIndexOf("node_modules/") + "node_modules/".length);
  const file = path.join(root, place, "package.json");
  const own = fs.existsSync(file) ? JSON.parse(fs.readFileSync(file, "utf8")) : {};
  const said = entry.license ?? own.license ?? own.licenses?.map(({ type }) => type).join(" OR ") ?? "none said";
  const licence = read[name] ?? (typeof said === "string" ? said : said.type);
  if (!read[name] && !goes(licence)) wrong.push(`${name} ${entry.version}: ${licence}`);
  rows.set(`${name} ${entry.version}`, `| ${name} | ${entry.version} | ${licence} |`);
}
const text = `# Licences of what Vuoto runs with

Made by \`node bin/licences.mjs\` from package-lock.json. Vuoto itself is under the MIT licence. Parts for another kind of
processor or system are named too, though only those of this computer are installed. Those under the LGPL and the MPL are
libraries that are used as they come, unchanged.

| package | version | licence |
| --- | --- | --- |
${[...rows]
  .sort(([a], [b]) => (a < b ? -1 : 1))
  .map(([, row]) => row)
  .join("\n")}
`;
const target = path.join(root, "docs/licences.md");
if (process.argv.includes("--check")) {
  if (!fs.existsSync(target) || fs.readFileSync(target, "utf8") !== text) {
    process.stderr.write("docs/licences.md is not of these packages: node bin/licences.mjs makes it anew.\n");
    process.exit(1);
  }
} else fs.writeFileSync(target, text);
if (wrong.length > 0) {
  process.stderr.write(`These licences are not known to go with MIT:\n${wrong.join("\n")}\n`);
  process.exit(1);
}
