// Browser tests drive the real program; bin/test starts it with a database of its own and gives its address.
import { readFileSync } from 'node:fs';
import { defineConfig } from '@playwright/test';

const args = JSON.parse(readFileSync(new URL('./e2e/chromium.json', import.meta.url), 'utf8'));

export default defineConfig({
  testDir: 'e2e',
  workers: 1,
  // On a machine that is taken away for seconds at a time a page may miss its moment; a second miss is a failure.
  retries: process.env.CI ? 1 : 0,
  timeout: 120_000,
  expect: { timeout: 20_000 },
  reporter: [['list']],
  use: {
    baseURL: process.env.EDDYMIST_URL ?? 'http://127.0.0.1:8380',
    viewport: { width: 1280, height: 800 },
    launchOptions: { executablePath: '/usr/bin/chromium', args },
    trace: 'retain-on-failure',
  },
});
