import type { Actor } from '../../src/core/rights/decide.ts';
import { change, rows, type Database } from '../../src/server/database/connection.ts';
import { answerScim } from '../../src/server/scim/answer.ts';
import { addScimClient } from '../../src/server/scim/clients.ts';
import { seconds, sized, timed } from './size.ts';

const BASE = 'https://bell.example/scim/v2';

/** Changes that another system makes, four at once: each found by its user name and patched, half of them leaving and coming back. */
export async function keeping(db: Database): Promise<void> {
  const [first] = await rows<{ id: number }>(db, 'SELECT MIN(id) AS id FROM people');
  const actor: Actor = { id: first?.id ?? 1, role: 'coordinator', moderates: new Set(), mayReach: new Set() };
  await change(db, "UPDATE people SET role = 'coordinator' WHERE id = ?", [actor.id]);
  const n = sized(1_000);
  const { token } = await addScimClient(db, actor, { name: 'Bench' });
  const people = await rows<{ id: number; mail: string }>(
    db,
    'SELECT id, mail FROM people WHERE mail IS NOT NULL AND id <> ? ORDER BY id LIMIT ?',
    [actor.id, n],
  );
  const call = async (method: string, path: string, body?: unknown): Promise<Record<string, unknown>> => {
    const request = new Request(`${BASE}/${path}`, {
      method,
      headers: { authorization: `Bearer ${token}`, 'content-type': 'application/scim+json' },
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    });
    const answer = await answerScim(db, BASE, path.split('?')[0]!.split('/'), request, console.error);
    if (!answer.ok) throw new Error(`${method} ${path}: ${answer.status}`);
    return (await answer.json()) as Record<string, unknown>;
  };
  const fourAtOnce = async (work: (i: number) => Promise<unknown>): Promise<number> => {
    let next = 0;
    const [, took] = await timed(() =>
      Promise.all(
        Array.from({ length: 4 }, async () => {
          for (let i = next++; i < people.length; i = next++) await work(i);
        }),
      ),
    );
    return took;
  };
  const changing = await fourAtOnce(async (i) => {
    const filter = encodeURIComponent(`userName eq "${people[i]!.mail}"`);
    const found = await call('GET', `Users?filter=${filter}`);
    const [user] = found.Resources as { id: string }[];
    await call('PATCH', `Users/${user!.id}`, {
      schemas: ['urn:ietf:params:scim:api:messages:2.0:PatchOp'],
      Operations: [
        i % 2 === 0
          ? { op: 'replace', path: 'title', value: `keeper ${i}` }
          : { op: 'replace', path: 'active', value: false },
      ],
    });
  });
  const bare = await fourAtOnce((i) =>
    change(db, 'UPDATE people SET occupation = ? WHERE id = ?', [`bare ${i}`, people[i]!.id]),
  );
  const [page, took] = await timed(() => call('GET', 'Users?count=200'));
  console.log(
    `${people.length} people of ${String(page.totalResults)} found and changed by another system, 4 at once: ${seconds(changing)}, ` +
      `${Math.round((people.length / changing) * 60_000)} a minute, ${(changing / bare).toFixed(1)} times the bare updates (${seconds(bare)}); aim 1,000 a minute; ` +
      `a page of 200 of them ${took.toFixed(0)} ms`,
  );
}
