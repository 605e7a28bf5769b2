// Takes out of package-lock.json the mention of optional platform packages that the registry did not serve, since `npm ci` refuses a
// lock that names packages it does not hold. Run it after every `npm install`.
import { readFileSync, writeFileSync } from "node:fs";

const file = new URL("../package-lock.json", import.meta.url);
const lock = JSON.parse(readFileSync(file, "utf8"));
const gone = new Set();
for (const [path, entry] of Object.entries(lock.packages)) {
  for (const name of Object.keys(entry.optionalDependencies ?? {})) {
    const held = [`${path}/node_modules/${name}`, `node_modules/${name}`].some((p) => p in lock.packages);
    if (!held) {
      gone.add(name);
      delete entry.optionalDependencies[name];
    }
  }
}
writeFileSync(file, JSON.stringify(lock, null, 2) + "\n");
console.log(gone.size > 0 ? `left out: ${[...gone].join(", ")}` : "nothing to leave out");
