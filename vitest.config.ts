import path from "node:path";
import { defineConfig } from "vitest/config";

export default defineConfig({
  resolve: { alias: { "@": path.join(import.meta.dirname, "src") } },
  test: {
    include: ["src/**/*.test.ts", "fixtures/**/*.test.ts"],
    testTimeout: 60_000,
    hookTimeout: 60_000,
    pool: "forks",
    maxWorkers: 2,
    // Whoever waits before trying again, or for an answer that does not come, waits less here.
    env: { VUOTO_WAIT_SECOND_MS: "20", VUOTO_CLOUD_PATIENCE_MS: "1500" },
  },
});
