import { createHash } from 'node:crypto';
import { contentOfMessage } from '../core/gateways/message.ts';
import { hookInSchema, hookMessageSchema, type HookIn } from '../core/gateways/hookIn.ts';
import { hookOutSchema } from '../core/gateways/hookOut.ts';
import { insertAnnouncement } from '../server/announcements/store.ts';
import { freezeVersion } from '../server/announcements/versionStore.ts';
import { hashToken } from '../server/accounts/opening.ts';
import { insertToken } from '../server/api/tokenStore.ts';
import { EMPTY_PLAN } from '../core/plan/plan.ts';
import { change, rows, type Database } from '../server/database/connection.ts';
import { insertCalls, insertHookIn } from '../server/gateways/inStore.ts';
import { insertHookOut } from '../server/gateways/outStore.ts';
import { insertMemberPost } from '../server/posts/store.ts';
import { seal } from '../server/sealing.ts';
import type { DemoPeople } from './people.ts';

type Ids = ReadonlyMap<string, number>;

/** Made-up secrets of the demo, known to whoever tries it and to its stand-ins; a real one is told once and never again. */
export const DEMO_WAY_IN = {
  key: 'vaultmonitorvaultmonit',
  secret: 'whsec_dmF1bHQgbW9uaXRvciBzZWNyZXQgMDE=',
} as const;
/** The token of a program that shows at the gate what is on, and adds what the vaults measure. */
const DEMO_TOKEN = 'clearbell_demo-token-of-the-gate-display';
export const DEMO_RECEIVER_SECRET = 'whsec_cmVjb3JkcyBzeXN0ZW0gc2VjcmV0IDE=';

const COURIER_KEY = 'couriersystemcouriersy';
/** The same at every start, so that the demo's addresses can be noted down. */
const mailKeyOf = (addressKey: string): string =>
  createHash('sha256').update(addressKey).digest('hex').slice(0, 20);
const HOUR_MS = 3_600_000;
const RECORDS = 'The records system';
const SCREENS = 'The screens at the gates';
/** A screen has room for little: the title, the beginning of the text, and until when it stands there. */
const SCREEN_TEMPLATE = `{
  "number": "{{ id }}",
  "shown": "{{ change }}",
  "headline": "{{ title | truncate: 60 }}",
  "lines": "{{ text | truncate: 240 }}",
  "begins": "{{ event.starts }}",
  "more": "{{ url }}"
}`;
const eventsUrl = (origin: string): string => `${origin}/events`;

/** The ways in and out of the demo, with what came and was refused in the last days. Gives the ids of the ways in. */
export async function layGateways(
  db: Database,
  sealWith: string,
  nowMs: number,
  people: DemoPeople,
  boards: Ids,
): Promise<Map<string, number>> {
  const maud = people.byMail('maud');
  const board = boards.get('Vault alerts') ?? 0;
  await change(db, 'UPDATE boards SET gateways = TRUE WHERE id = ?', [board]);
  const [sender] = await rows<{ id: number }>(db, "SELECT id FROM senders WHERE name = 'The vault desk'");
  const ids = new Map<string, number>();
  const add = async (
    hook: Omit<HookIn, 'mail'> & Partial<Pick<HookIn, 'mail'>>,
    addressKey: string,
    secret: string,
  ): Promise<void> => {
    const sealed = seal(sealWith, secret);
    ids.set(
      hook.name,
      await insertHookIn(db, {
        hook: hookInSchema.parse(hook),
        addressKey,
        mailKey: mailKeyOf(addressKey),
        sealed,
        ownerId: maud,
      }),
    );
  };
  await add(
    {
      name: 'The vault monitor',
      target: { kind: 'board', boardId: board },
      senderId: sender?.id ?? null,
      held: false,
      perMinute: 30,
      mapping: null,
      fields: [],
      mail: { from: ['monitor@vaults.example'], members: true },
    },
    DEMO_WAY_IN.key,
    DEMO_WAY_IN.secret,
  );
  await add(
    {
      name: 'The courier',
      target: { kind: 'automations' },
      senderId: null,
      held: false,
      perMinute: 10,
      mapping: null,
      fields: [
        { name: 'batch', pointer: '/parcel/batch', kind: 'text', unit: '' },
        { name: 'station', pointer: '/parcel/station', kind: 'text', unit: '' },
        { name: 'arrives', pointer: '/parcel/arrives', kind: 'moment', unit: '' },
      ],
    },
    COURIER_KEY,
    DEMO_WAY_IN.secret,
  );
  await layCalls(db, ids, maud, board, nowMs);
  await insertHookOut(db, {
    hook: hookOutSchema.parse({
      name: RECORDS,
      url: eventsUrl('http://localhost:1'),
      kinds: ['announcement.sent', 'post.up', 'ask.closed', 'person.left'],
      boardId: null,
    }),
    sealed: seal(sealWith, DEMO_RECEIVER_SECRET),
    ownerId: maud,
  });
  await insertHookOut(db, {
    hook: hookOutSchema.parse({
      name: SCREENS,
      url: eventsUrl('http://localhost:1'),
      kinds: [],
      boardId: null,
      place: { template: SCREEN_TEMPLATE, changes: true, editors: true },
    }),
    sealed: seal(sealWith, DEMO_RECEIVER_SECRET),
    ownerId: maud,
  });
  const token = await insertToken(db, {
    personId: maud,
    name: 'The display at the gate',
    hash: hashToken(DEMO_TOKEN),
    scopes: [
      'announcements:read',
      'asks:read',
      'boards:read',
      'sessions:read',
      'records:read',
      'records:write',
    ],
    days: 365,
  });
  await db('api_calls').insert(
    [0, 1, 2, 3].map((days) => ({
      token_id: token,
      day: new Date(nowMs - days * 24 * HOUR_MS).toISOString().slice(0, 10),
      calls: 96,
      last_at: new Date(nowMs - days * 24 * HOUR_MS - HOUR_MS / 4),
    })),
  );
  return ids;
}

const CAME = [
  {
    hours: 30,
    body: {
      id: 'reading-4407',
      title: 'Cinder Bay: door open for eleven minutes',
      text: 'The outer door of the vault at **Cinder Bay** stood open from 02:14 to 02:25.',
      fields: [
        { label: 'Vault', value: 'Cinder Bay' },
        { label: 'Temperature', value: '−17.2 °C, rising' },
      ],
    },
  },
  {
    hours: 5,
    body: {
      id: 'reading-4431',
      title: 'Quillan: compressor two is off',
      text: 'Compressor one carries the load. Nothing is thawing.',
      fields: [{ label: 'Vault', value: 'Quillan' }],
    },
  },
];

async function layCalls(db: Database, ids: Ids, maud: number, boardId: number, nowMs: number): Promise<void> {
  const monitor = ids.get('The vault monitor') ?? 0;
  const at = async ([callId]: readonly number[], atMs: number): Promise<void> => {
    await change(db, 'UPDATE hook_calls SET at = ? WHERE id = ?', [new Date(atMs), callId ?? 0]);
  };
  const refused = { outcome: 'refused' as const, postId: null, occurrenceId: null, messageId: '' };
  await at(
    await insertCalls(db, monitor, [
      {
        ...refused,
        status: 422,
        reason: 'title: Give it a title',
        body: JSON.stringify({ id: 'reading-4412', text: 'Compressor two is off' }),
      },
    ]),
    nowMs - 36 * HOUR_MS,
  );
  for (const { hours, body } of CAME) {
    const content = contentOfMessage(hookMessageSchema.parse(body), {
      byline: 'The vault desk',
      images: [],
      called: [],
    });
    const versionId = await freezeVersion(
      db,
      await insertAnnouncement(db, maud, content, EMPTY_PLAN, 'committed'),
      maud,
      content,
      'sent',
    );
    const postId = await insertMemberPost(db, {
      boardId,
      versionId,
      authorId: maud,
      key: `demo.${body.id}`,
      hookId: monitor,
    });
    const atMs = nowMs - hours * HOUR_MS;
    await change(db, 'UPDATE posts SET posted_at = ? WHERE id = ?', [new Date(atMs), postId]);
    const call = { outcome: 'taken' as const, status: 201, reason: null, postId, occurrenceId: null };
    await at(
      await insertCalls(db, monitor, [{ ...call, messageId: body.id, body: JSON.stringify(body) }]),
      atMs,
    );
  }
  const courier = ids.get('The courier') ?? 0;
  await at(
    await insertCalls(db, courier, [
      {
        ...refused,
        status: 401,
        reason:
          'The signature does not fit what was sent. Sign the exact bytes of the body, with the secret of this address.',
        body: '',
      },
    ]),
    nowMs - 2 * HOUR_MS,
  );
}

/** Says where the stand-in that is told, and that plays the screens, answers; its port may be another at each start. */
export async function placeReceiver(db: Database, origin: string): Promise<void> {
  await change(db, "UPDATE hooks_out SET hook = JSON_SET(hook, '$.url', ?) WHERE name IN (?, ?)", [
    eventsUrl(origin),
    RECORDS,
    SCREENS,
  ]);
}
