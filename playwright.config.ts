import { defineConfig } from "@playwright/test";

export default defineConfig({
  testDir: "e2e",
  globalSetup: "./e2e/set-up.mjs",
  // One server and one browser at a time: each test works on files of its own account.
  workers: 2,
  fullyParallel: false,
  timeout: 120_000,
  retries: 0,
  // Generous, as the machines that run this are shared.
  expect: { timeout: 20_000 },
  use: {
    viewport: { width: 1280, height: 800 },
    launchOptions: {
      executablePath: process.env.VUOTO_CHROMIUM ?? "/usr/bin/chromium",
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
