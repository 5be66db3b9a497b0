import { readdirSync, readFileSync, writeFileSync } from "node:fs";
import { brotliCompressSync, gzipSync } from "node:zlib";
import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig, type Plugin } from "vite";

/** Scripts and styles lie beside themselves compressed, so that no server has to do it. */
const compressed: Plugin = {
  name: "compressed",
  writeBundle({ dir }) {
    const assets = `${dir}/assets`;
    for (const name of readdirSync(assets).filter((each) => /\.(js|css)$/.test(each))) {
      const plain = readFileSync(`${assets}/${name}`);
      writeFileSync(`${assets}/${name}.br`, brotliCompressSync(plain));
      writeFileSync(`${assets}/${name}.gz`, gzipSync(plain, { level: 9 }));
    }
  },
};

// A page is three scripts: what every page needs, what several share, its own. Left to itself the bundler
// makes one for each set of pages that share something: forty small ones, and a page asks for a dozen.
const groups = [
  { name: "base", tags: ["$initial" as const], priority: 1 },
  { name: "shared", minShareCount: 2 },
];

export default defineConfig({
  plugins: [react(), tailwindcss(), compressed],
  // The server puts a nonce of its own into each page that it sends: see the content policy.
  html: { cspNonce: "NONCE-OF-THIS-PAGE" },
  build: {
    outDir: "../src/spare_margin/web/app",
    emptyOutDir: true,
    rolldownOptions: { output: { codeSplitting: { groups } } },
  },
  server: { host: "127.0.0.1", proxy: { "/api": "http://127.0.0.1:8765" } },
});
