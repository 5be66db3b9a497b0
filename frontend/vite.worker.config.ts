import { readdirSync } from "node:fs";
import { defineConfig } from "vite";

const APP = "../src/spare_margin/web/app";
const assets = readdirSync(`${APP}/assets`).filter((name) => !/\.(br|gz)$/.test(name));

/** The service worker, built after the pages: it keeps every file of theirs. */
export default defineConfig({
  define: {
    BUILT: JSON.stringify(assets.map((name) => `/assets/${name}`)),
    "process.env.NODE_ENV": JSON.stringify("production"),
  },
  publicDir: false,
  build: {
    outDir: APP,
    emptyOutDir: false,
    lib: {
      entry: "src/offline/worker.ts",
      formats: ["iife"],
      name: "worker",
      fileName: () => "worker.js",
    },
  },
});
