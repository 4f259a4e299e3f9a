import { chromium } from 'playwright-core';
const [who, ...shots] = process.argv.slice(2);
const b = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox','--disable-gpu'] });
for (const shot of shots) {
  const [path, name, w='1280', h='800', act=''] = shot.split('|');
  const c = await b.newContext({ viewport: { width: +w, height: +h } });
  const p = await c.newPage();
  p.on('pageerror', (e) => console.log('ERR', path, e.message));
  p.on('console', (m) => { if (m.type()==='error') console.log('CON', path, m.text()); });
  await p.goto('http://localhost:4400/sign-in');
  await p.waitForFunction(() => document.querySelector('astro-island[ssr]') === null);
  await p.getByRole('button', { name: new RegExp(who) }).click();
  await p.waitForURL((u) => !u.pathname.includes('sign-in'));
  await p.goto('http://localhost:4400' + path);
  await p.waitForFunction(() => document.querySelector('astro-island[ssr]') === null);
  await p.waitForTimeout(400);
  if (act) { await eval(`(async()=>{${act}})()`); await p.waitForTimeout(600); }
  await p.screenshot({ path: `/tmp/${name}.png` });
  await c.close();
}
await b.close();
