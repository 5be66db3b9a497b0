import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

export default defineConfig({
  plugins: [react(), tailwindcss()],
  // The server puts a nonce of its own into each page that it sends: see the content policy.
  html: { cspNonce: "NONCE-OF-THIS-PAGE" },
  build: { outDir: "../src/spare_margin/web/app", emptyOutDir: true },
  server: { host: "127.0.0.1", proxy: { "/api": "http://127.0.0.1:8765" } },
});
