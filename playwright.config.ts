import fs from "node:fs";
import { defineConfig } from "@playwright/test";

export default defineConfig({
  testDir: "e2e",
  globalSetup: "./e2e/set-up.mjs",
  // Each with an application and a browser of its own; a good part of their time they wait for one another.
  workers: 3,
  fullyParallel: false,
  timeout: 360_000,
  retries: 0,
  // Generous, as the machines that run this are shared.
  expect: { timeout: 60_000 },
  use: {
    viewport: { width: 1280, height: 800 },
    launchOptions: {
      executablePath:
        process.env.VUOTO_CHROMIUM ??
        ["/usr/bin/chromium-headless-shell", "/usr/bin/chromium"].find((place) => fs.existsSync(place)),
      args: [
        "--no-sandbox",
        "--disable-gpu",
        "--disable-quic",
        "--no-first-run",
        "--disable-background-networking",
        "--disable-component-update",
        "--disable-sync",
      ],
    },
  },
});
