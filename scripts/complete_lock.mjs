// Adds to frontend/package-lock.json the optional packages for other platforms that the registry
// at hand did not offer. Without them `npm ci` calls the lock incomplete; with them it passes over
// what is not for this machine. Run it after `npm install`.
import { readFileSync, writeFileSync } from "node:fs";

const file = new URL("../frontend/package-lock.json", import.meta.url);
const lock = JSON.parse(readFileSync(file, "utf8"));
const SYSTEMS = ["android", "darwin", "freebsd", "linux", "netbsd", "openbsd", "openharmony", "sunos", "win32", "aix"];
const PROCESSORS = ["x64", "arm64", "arm", "ia32", "ppc64", "s390x", "riscv64", "loong64", "wasm32"];

const added = [];
for (const held of Object.values(lock.packages)) {
  for (const [name, version] of Object.entries(held.optionalDependencies ?? {})) {
    const key = `node_modules/${name}`;
    if (lock.packages[key]) continue;
    const words = name.split(/[-/]/);
    const system = SYSTEMS.find((s) => words.includes(s));
    const processor = PROCESSORS.find((p) => words.includes(p));
    lock.packages[key] = {
      version: version.replace(/^[\^~]/, ""),
      ...(processor ? { cpu: [processor] } : {}),
      ...(held.dev ? { dev: true } : {}),
      optional: true,
      ...(system ? { os: [system] } : {}),
      ...(words.includes("musl") ? { libc: ["musl"] } : {}),
    };
    added.push(name);
  }
}
const [root, ...rest] = Object.entries(lock.packages);
lock.packages = Object.fromEntries([root, ...rest.sort(([a], [b]) => (a < b ? -1 : 1))]);
writeFileSync(file, `${JSON.stringify(lock, null, 2)}\n`);
console.log(added.length ? `added ${added.join(", ")}` : "nothing to add");
