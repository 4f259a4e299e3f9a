import { readFileSync } from 'node:fs';
import { collectDefaultMetrics, Registry } from 'prom-client';
import { expect, it } from 'vitest';
import { EngineFigures } from '../../src/server/metrics.ts';

it('alert rules ask for figures that there are', async () => {
  const rules = readFileSync(new URL('../../deploy/alerts.yml', import.meta.url), 'utf8');
  const asked = new Set(rules.match(/clear_bell_[a-z0-9_]+/g) ?? []);
  const engine = new EngineFigures();
  engine.lateness.observe(0.1);
  engine.deliveries.inc({ method: 'mail', outcome: 'failed' }, 1);
  engine.skew.set(0);
  const web = new Registry();
  collectDefaultMetrics({ register: web, prefix: 'clear_bell_web_' });
  const told = `${await engine.registry.metrics()}\n${await web.metrics()}`;
  expect(asked.size).toBeGreaterThan(3);
  for (const name of asked) expect(told, name).toMatch(new RegExp(`^${name}(\\{[^}]*\\})? `, 'm'));
  // Labels and bounds that are asked for are there too.
  expect(told).toContain('clear_bell_bucket_lateness_seconds_bucket{le="1"}');
  expect(told).toContain('method="mail",outcome="failed"');
});
