import { defineConfig } from "@playwright/test";

// The tests drive the program that bin/test started, in Debian's Chromium.
export default defineConfig({
  testDir: "e2e",
  testMatch: "*.test.ts",
  workers: 2, // files beside each other; tests of one file share the demo and run in turn
  timeout: 120_000, // a busy machine is slow, not wrong
  expect: { timeout: 15_000 },
  reporter: [["list"]],
  outputDir: ".velvet/test-results",
  use: {
    baseURL: process.env.BASE_URL,
    viewport: { width: 1280, height: 800 },
    launchOptions: {
      executablePath: "/usr/bin/chromium",
      args: ["--no-sandbox", "--disable-gpu", "--no-first-run", "--disable-background-networking", "--disable-component-update", "--disable-sync"],
    },
  },
});
