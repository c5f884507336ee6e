import { defineConfig } from "@playwright/test";
import { launchOptions } from "./chromium.mjs";

export default defineConfig({
  testDir: ".",
  testMatch: "*.spec.mjs",
  outputDir: "results",
  workers: 2,
  fullyParallel: true,
  timeout: 120_000,
  expect: { timeout: 10_000 },
  // A loaded machine may be slow once; a real fault fails every time and is still reported as flaky.
  retries: process.env.CI ? 2 : 0,
  reporter: [["list"]],
  forbidOnly: true,
  use: {
    browserName: "chromium",
    viewport: { width: 1280, height: 800 },
    launchOptions,
    contextOptions: { reducedMotion: "reduce" },
  },
});
