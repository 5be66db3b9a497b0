import { defineConfig } from "vitest/config";

// The pages' own logic, without a browser: what is drawn and clicked is tested in Chromium, by pytest.
export default defineConfig({ test: { include: ["tests/**/*.test.ts"], environment: "node" } });
