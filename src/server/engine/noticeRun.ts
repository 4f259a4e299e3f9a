import { randomBytes } from 'node:crypto';
import pMap from 'p-map';
import { afterFailure } from '../../core/delivery/retry.ts';
import { digestDue } from '../../core/notices/notice.ts';
import { momentWords } from '../../core/timing/words.ts';
import { count } from '../../core/words.ts';
import type { Database } from '../database/connection.ts';
import { untilRecorded } from '../database/untilRecorded.ts';
import { answerAddress, backAddress } from '../mail-in/address.ts';
import { signLink } from '../links/signed.ts';
import { layOutNotice } from '../mail/notice.tsx';
import { failureOf } from '../mail/transport.ts';
import {
  bundlesDue,
  claimDigest,
  claimNotices,
  digestsWaiting,
  giveBackNotices,
  recordNoticeOutcome,
  type ClaimedNotice,
  type NoticeMethod,
} from '../notices/store.ts';
import { organisation } from '../people/store.ts';
import { occurrenceById } from '../sends/occurrenceStore.ts';
import type { PushTransport } from '../push/transport.ts';
import { devicesOf, dropDevice, noteTaken } from '../push/store.ts';
import type { MailWorld } from './mailRun.ts';
import { giveUp, reasonOf } from '../aside/store.ts';
import { answeredByOnePress } from '../../core/asks/ask.ts';

/** What telling needs to know of the world. */
export interface NoticeWorld extends MailWorld {
  push: PushTransport;
}

const BATCH = 200;
const AT_ONCE = 8;
const PEOPLE_AT_ONCE = 500;

type Gathered = 'daily' | 'bundled';
type Outcome = Parameters<typeof recordNoticeOutcome>[4];

/** Tells people by mail and push: what goes at once, and what was gathered for their hour of the day. */
export class NoticeRun {
  readonly #db: Database;
  readonly #world: NoticeWorld;
  readonly #seconds: number;
  /** Claims that failed, with what they claimed: whether the database took them is not known. */
  readonly #unsure: { method: NoticeMethod; claim: string; state: Gathered | 'waiting' }[] = [];

  constructor(db: Database, world: NoticeWorld, claimSeconds: number) {
    this.#db = db;
    this.#world = world;
    this.#seconds = claimSeconds;
  }

  /** Claims under a name of its own. Where that failed before, what was claimed then is given back first, not at the end of its claim. */
  async #claim(
    method: NoticeMethod,
    state: Gathered | 'waiting',
    work: (claim: string) => Promise<ClaimedNotice[]>,
  ): Promise<{ claim: string; claimed: ClaimedNotice[] }> {
    for (let each = this.#unsure.shift(); each; each = this.#unsure.shift())
      try {
        await giveBackNotices(this.#db, each.method, each.claim, each.state);
      } catch (error) {
        this.#unsure.push(each);
        throw error;
      }
    const claim = randomBytes(8).toString('hex');
    try {
      return { claim, claimed: await work(claim) };
    } catch (error) {
      this.#unsure.push({ method, claim, state });
      throw error;
    }
  }

  /** Hands over what is to go at once by a method; gives how many there were. */
  async atOnce(method: NoticeMethod): Promise<number> {
    const { claim, claimed } = await this.#claim(method, 'waiting', (of) =>
      claimNotices(this.#db, method, of, this.#seconds, BATCH),
    );
    await pMap(claimed, (notice) => this.#hand(method, claim, [notice]), { concurrency: AT_ONCE });
    return claimed.length;
  }

  /** Hands over the digests of everybody whose hour has come; gives how many. */
  async daily(method: NoticeMethod): Promise<number> {
    const nowMs = this.#world.nowMs();
    let handed = 0;
    for (let after = 0; ;) {
      const waiting = await digestsWaiting(this.#db, method, after, PEOPLE_AT_ONCE);
      const due = waiting.filter(
        ({ sinceMs, zone, digestAt }) => digestDue(sinceMs, zone, digestAt) <= nowMs,
      );
      await pMap(
        due,
        async ({ personId }) => {
          const { claim, claimed: notices } = await this.#claim(method, 'daily', (of) =>
            claimDigest(this.#db, method, personId, of, this.#seconds),
          );
          if (notices.length === 0) return;
          handed++;
          await this.#hand(method, claim, notices);
        },
        { concurrency: AT_ONCE },
      );
      const last = waiting.at(-1);
      if (!last || waiting.length < PEOPLE_AT_ONCE) return handed;
      after = last.personId;
    }
  }

  /** Hands over the bundles of push messages that are due; gives how many. */
  async bundles(): Promise<number> {
    const due = await bundlesDue(this.#db, BATCH);
    await pMap(
      due,
      async (personId) => {
        const { claim, claimed: notices } = await this.#claim('push', 'bundled', (of) =>
          claimDigest(this.#db, 'push', personId, of, this.#seconds, 'bundled'),
        );
        if (notices.length > 0) await this.#hand('push', claim, notices, 'bundled');
      },
      { concurrency: AT_ONCE },
    );
    return due.length;
  }

  async #hand(
    method: NoticeMethod,
    claim: string,
    notices: ClaimedNotice[],
    gathered: Gathered = 'daily',
  ): Promise<void> {
    const outcome = await this.#outcomeOf(method, notices, gathered);
    await untilRecorded(
      () =>
        recordNoticeOutcome(
          this.#db,
          method,
          claim,
          notices.map((notice) => notice.id),
          // What was gathered stays together: it is tried again as one.
          outcome.state === 'waiting' && notices.length > 1 ? { ...outcome, state: gathered } : outcome,
        ),
      { stop: this.#world.stop },
    );
  }

  /** What became of some notices handed over together; an error of ours counts as a failure that may pass. */
  async #outcomeOf(method: NoticeMethod, notices: ClaimedNotice[], gathered: Gathered): Promise<Outcome> {
    try {
      return await (method === 'mail' ? this.#mail(notices) : this.#push(notices, gathered));
    } catch (error) {
      const [first] = notices;
      const verdict = afterFailure(
        { kind: 'temporary', reason: reasonOf(error) },
        first?.attempts ?? 1,
        this.#world.nowMs() - (first?.atMs ?? this.#world.nowMs()),
        Math.random(),
      );
      if (verdict.outcome === 'retry') return { state: 'waiting', waitMs: verdict.waitMs };
      await giveUp(this.#db, 'notice', first?.id ?? 0, null, verdict.reason);
      return { state: 'failed' };
    }
  }

  async #mail(notices: ClaimedNotice[]): Promise<Outcome> {
    const [first] = notices;
    if (!first || first.mail === null) return { state: 'no' };
    const { publicUrl, secret, transport, nowMs, mailDomain } = this.#world;
    const home = (await organisation(this.#db))?.name ?? 'Clear Bell';
    const heading = notices.length === 1 ? first.title : digestTitle(notices);
    const stopUrl = `${publicUrl}/m/notices/${signLink(
      secret,
      { purpose: 'notices', occurrenceId: 0, personId: first.personId },
      nowMs(),
    )}`;
    const postId = notices.length === 1 ? postIn(first.path) : null;
    const answers = mailDomain !== undefined && postId !== null;
    const letter = await layOutNotice({
      organisation: home,
      heading,
      items: notices.map((notice) => ({
        title: notice.title,
        text: notice.text,
        why: notice.why,
        url: `${publicUrl}${notice.path}`,
        when: momentWords(notice.atMs, first.zone, nowMs()),
      })),
      answers,
      settingsUrl: `${publicUrl}/settings#notices`,
      stopUrl,
    });
    const host = new URL(publicUrl).hostname;
    try {
      await transport.send({
        messageId: `<notice.${notices.map((notice) => notice.id).at(-1) ?? 0}.${first.personId}@${host}>`,
        fromName: home,
        toName: first.name,
        to: first.mail,
        subject: heading,
        ...letter,
        urgent: false,
        listId: `<notices.${host}>`,
        unsubscribeUrl: stopUrl,
        calendar: null,
        ...(mailDomain === undefined ? {} : { returnTo: backAddress(secret, mailDomain, first.personId, 0) }),
        ...(answers ? { replyTo: answerAddress(secret, mailDomain, first.personId, postId) } : {}),
      });
      return { state: 'sent' };
    } catch (error) {
      const verdict = afterFailure(failureOf(error), first.attempts, nowMs() - first.atMs, Math.random());
      return verdict.outcome === 'failed'
        ? { state: 'failed' }
        : { state: 'waiting', waitMs: verdict.waitMs };
    }
  }

  /** Where one press on a push message acknowledges what it tells of, as a path; null where it takes more than that. */
  async #answerPath(notice: ClaimedNotice): Promise<string | null> {
    const id = /^\/for-me\/(\d+)$/.exec(notice.path)?.[1];
    if (notice.kind !== 'announcement' || id === undefined) return null;
    const occurrence = await occurrenceById(this.#db, Number(id));
    if (!occurrence || !answeredByOnePress(occurrence.asked)) return null;
    const { secret, nowMs } = this.#world;
    const claim = {
      purpose: 'acknowledge',
      occurrenceId: occurrence.rollOf,
      personId: notice.personId,
    } as const;
    return `/m/acknowledge/${signLink(secret, claim, nowMs())}?via=push`;
  }

  /** To each device of a person; it has reached them once one of these has taken it. */
  async #push(notices: ClaimedNotice[], gathered: 'daily' | 'bundled'): Promise<Outcome> {
    const [first] = notices;
    if (!first) return { state: 'no' };
    const devices = await devicesOf(this.#db, [first.personId]);
    if (devices.length === 0) return { state: 'no' };
    const message =
      notices.length === 1
        ? {
            title: first.title,
            text: first.text,
            path: first.path,
            why: first.why,
            urgent: first.urgent === 1,
            answer: await this.#answerPath(first),
          }
        : gathered === 'bundled'
          ? {
              title: `${notices.length} announcements for you`,
              text: notices.map((notice) => notice.title).join(' · '),
              path: '/for-me',
              why: 'Routine matter comes to you together.',
              urgent: false,
              answer: null,
            }
          : {
              title: digestTitle(notices),
              text: notices.map((notice) => notice.title).join(' · '),
              path: '/for-me/notices',
              why: 'You chose to be told of these once a day.',
              urgent: false,
              answer: null,
            };
    const taken: number[] = [];
    let gone = 0;
    let later: { reason: string; waitMs: number | null } | undefined;
    for (const device of devices) {
      const outcome = await this.#world.push.send(device, message);
      if (outcome.kind === 'taken') taken.push(device.id);
      else if (outcome.kind === 'gone') {
        gone++;
        await dropDevice(this.#db, device.id);
      } else if (outcome.kind === 'later') later = outcome;
    }
    await noteTaken(this.#db, taken);
    if (taken.length > 0) return { state: 'sent' };
    if (gone === devices.length) return { state: 'no' };
    if (!later) return { state: 'failed' };
    const verdict = afterFailure(
      { kind: 'temporary', reason: later.reason },
      first.attempts,
      this.#world.nowMs() - first.atMs,
      Math.random(),
    );
    return verdict.outcome === 'failed'
      ? { state: 'failed' }
      : { state: 'waiting', waitMs: Math.max(verdict.waitMs, later.waitMs ?? 0) };
  }
}

/** The post that a notice leads to; null where it leads elsewhere. */
function postIn(path: string): number | null {
  const id = /^\/posts\/(\d+)(?:[?#]|$)/.exec(path)?.[1];
  return id === undefined ? null : Number(id);
}

const digestTitle = (notices: readonly ClaimedNotice[]): string =>
  `${count(notices.length, 'thing', 'things')} for you since yesterday`;
