import { chromium } from 'playwright-core';
const base = 'http://127.0.0.1:4611';
const jobs = await (await fetch(`${base}/api/jobs`)).json();
const job = jobs.find((j) => j.name === 'Flood bank, east reach');
const browser = await chromium.launch({
  executablePath: '/usr/bin/chromium',
  args: ['--no-sandbox', '--use-angle=swiftshader', '--enable-unsafe-swiftshader', '--ignore-gpu-blocklist'],
});
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
page.on('pageerror', (e) => console.log('ERR', e.message));
page.on('console', (m) => m.type() === 'error' && console.log('CON', m.text()));
await page.goto(`${base}/jobs/${job.id}/lines`);
await page.waitForTimeout(3000);
const at = (id) => page.getByTestId(id);
await at('part-codes').click();
await at('edit-codes').click();
await page.waitForTimeout(800);
await at('meaning-FENCE').fill('Wire fence');
await at('add-code').click();
const fresh = page.locator('pam-code-dialog input.code.num').last();
await fresh.fill('FENCE');
await at('codes-done').click();
await page.waitForTimeout(800);
await page.screenshot({ path: '/tmp/s1.png' });
await browser.close();
