import { defineConfig } from '@playwright/test';
import { chromium } from './cli/machine';

/**
 * The journeys a person makes, on a phone and on a wide screen, in Debian's Chromium. `./dartloop test
 * browser` starts what they need.
 */
export default defineConfig({
  testDir: 'e2e',
  outputDir: '.data/browser-output',
  fullyParallel: false,
  workers: 2,
  retries: 0,
  timeout: 90_000,
  expect: { timeout: 20_000 },
  reporter: [['list'], ['json']],
  use: {
    baseURL: process.env.DARTLOOP_BROWSER_ADDRESS,
    launchOptions: {
      executablePath: chromium() ?? undefined,
      args: [
        '--no-sandbox',
        '--disable-gpu',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
        '--no-first-run',
      ],
    },
  },
  projects: [
    { name: 'phone', use: { viewport: { width: 390, height: 844 }, hasTouch: true } },
    { name: 'wide', use: { viewport: { width: 1280, height: 800 } } },
  ],
});
