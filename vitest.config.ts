import fs from "node:fs";
import path from "node:path";
import { defineConfig } from "vitest/config";
import { BaseSequencer, type TestSpecification } from "vitest/node";

/** The largest files first, which are the longest: none is left for the end. */
class LargestFirst extends BaseSequencer {
  override async sort(files: TestSpecification[]): Promise<TestSpecification[]> {
    const bytes = ({ moduleId }: TestSpecification) => fs.statSync(moduleId).size;
    return files.toSorted((a, b) => bytes(b) - bytes(a));
  }
}

export default defineConfig({
  resolve: { alias: { "@": path.join(import.meta.dirname, "src") } },
  test: {
    include: ["src/**/*.test.{ts,tsx}", "fixtures/**/*.test.ts"],
    // Generous, as the machines that run this are shared.
    testTimeout: 120_000,
    hookTimeout: 120_000,
    pool: "forks",
    maxWorkers: 2,
    sequence: { sequencer: LargestFirst },
    expect: { poll: { timeout: 30_000 } },
    // Whoever waits before trying again, or for an answer that does not come, waits less here.
    env: { VUOTO_WAIT_SECOND_MS: "20", VUOTO_CLOUD_PATIENCE_MS: "1500" },
  },
});
