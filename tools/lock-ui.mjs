// Makes package-lock.json anew and takes the addresses out of it: versions and hashes are what it is for.
import { execSync } from "node:child_process";
import { readFileSync, rmSync, writeFileSync } from "node:fs";

rmSync("package-lock.json", { force: true });
execSync("npm install --package-lock-only --no-fund --no-audit --ignore-scripts", { stdio: "inherit" });
const lock = JSON.parse(readFileSync("package-lock.json", "utf8"));
for (const entry of Object.values(lock.packages)) {
  delete entry.resolved;
  delete entry.funding;
}
writeFileSync("package-lock.json", JSON.stringify(lock, null, 2) + "\n");
