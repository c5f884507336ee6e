import { defineConfig } from "@playwright/test";
import { launchOptions } from "./chromium.mjs";

export default defineConfig({
  testDir: ".",
  testMatch: "*.spec.mjs",
  outputDir: "results",
  workers: 2,
  fullyParallel: true,
  // A machine that other work uses is several times as slow.
  timeout: 240_000,
  expect: { timeout: 20_000 },
  reporter: [["list"]],
  forbidOnly: true,
  use: {
    browserName: "chromium",
    viewport: { width: 1280, height: 800 },
    launchOptions,
    contextOptions: { reducedMotion: "reduce" },
  },
});
