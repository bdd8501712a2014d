import { defineConfig } from '@playwright/test';
import { chromiumOptions } from './scripts/chromium.mjs';

export default defineConfig({
  testDir: 'e2e',
  testMatch: '*.spec.ts',
  outputDir: '.tsc/browser',
  // they wait more than they work; each has people and places of its own
  workers: 2,
  fullyParallel: false,
  // a wait that ends well costs nothing: room for machines that are held up
  timeout: 480_000,
  expect: { timeout: 120_000 },
  // a machine that stood still once is told of (scripts/test.mjs), and does not throw away a whole run
  retries: 1,
  reporter: [['list'], ['json']],
  // in this order: what changes the world for everybody comes last
  projects: [
    { name: 'together', testIgnore: 'alone/**' },
    { name: 'alone', testMatch: 'alone/*.spec.ts', workers: 1, dependencies: ['together'] },
  ],
  globalSetup: './e2e/globalSetup.ts',
  use: {
    viewport: { width: 1280, height: 800 },
    screenshot: 'only-on-failure',
    launchOptions: chromiumOptions(),
  },
});
