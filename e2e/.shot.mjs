import { chromium } from 'playwright-core';
const base = 'http://127.0.0.1:4611';
const jobs = await (await fetch(`${base}/api/jobs`)).json();
const job = jobs.find((j) => j.name === 'Flood bank, east reach');
const api = async (op, body) => {
  const r = await (
    await fetch(`${base}/api/jobs/${job.id}/operations/${op}`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(body),
    })
  ).json();
  for (;;) {
    const s = await (await fetch(`${base}/api/jobs/${job.id}/runs/${r.id}`)).json();
    if (!['queued', 'running'].includes(s.state)) {
      console.log(op, s.state, s.outcome, (s.elapsedMs / 1000).toFixed(1));
      return s;
    }
    await new Promise((r) => setTimeout(r, 200));
  }
};
const wb = await (await fetch(`${base}/api/jobs/${job.id}`)).json();
const cloud = wb.clouds[0];
console.log(cloud.bounds, cloud.pointCount, cloud.classCounts);
if (!cloud.classCounts['2']) await api('find-ground', { clouds: [cloud.id] });
if (!wb.products.some((p) => p.kind === 'surface')) await api('build-surface', { clouds: [cloud.id] });
if (process.argv[2] === 'find') {
  await api('find-breaks', {
    clouds: [cloud.id],
    kind: process.argv[3] ?? 'bank',
    ...JSON.parse(process.argv[4] ?? '{}'),
  });
}
const browser = await chromium.launch({
  executablePath: '/usr/bin/chromium',
  args: ['--no-sandbox', '--use-angle=swiftshader', '--enable-unsafe-swiftshader', '--ignore-gpu-blocklist'],
});
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
page.on('pageerror', (e) => console.log('ERR', e.message));
page.on('console', (m) => m.type() === 'error' && console.log('CON', m.text()));
await page.goto(`${base}/jobs/${job.id}/lines`);
await page.waitForTimeout(3500);
const at = (id) => page.getByTestId(id);
if (process.argv[2] === 'draw') {
  await at('draw-line').click();
  const plan = at('view-plan');
  for (const [x, y] of [
    [200, 300],
    [300, 330],
    [420, 300],
  ]) {
    await plan.click({ position: { x, y } });
    await page.waitForTimeout(400);
  }
  await page.mouse.move(600, 420);
  await page.waitForTimeout(500);
  await page.screenshot({ path: '/tmp/s1.png' });
  await page.keyboard.press('Enter');
  await page.waitForTimeout(1500);
  await at('change-lines').click();
  await plan.click({ position: { x: 250, y: 315 } });
  await page.waitForTimeout(500);
  await at('first-vertex').click();
  await page.waitForTimeout(500);
  await page.screenshot({ path: '/tmp/s2.png' });
} else {
  await page.screenshot({ path: '/tmp/s1.png' });
  if (process.argv[2] === 'find') {
    await at('next-proposal').click();
    await page.waitForTimeout(2500);
    await page.screenshot({ path: '/tmp/s2.png' });
  }
}
await browser.close();
