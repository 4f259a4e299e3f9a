import { reasonsKnown, whyWords } from '../../core/audience/words.ts';
import { momentWords, zoneWords } from '../../core/timing/words.ts';
import { factsOf } from '../audience/store.ts';
import type { Database } from '../database/connection.ts';
import { audienceNames, audienceContext } from '../groups/directory.ts';
import { backAddress } from '../mail-in/address.ts';
import { signLink, type LinkPurpose } from '../links/signed.ts';
import type { Mail } from '../mail/transport.ts';
import { organisation } from '../people/store.ts';
import { occurrencesByIds, type Occurrence } from '../sends/occurrenceStore.ts';
import { Bundles, bundlesIn, type WrittenPart } from './bundles.ts';
import { layOut, type LaidOut } from './layingOut.ts';
import type { ClaimedMail } from './mailStore.ts';
import { servedKind } from '../asks/kinds.ts';

/** What a letter to somebody is written with. */
export interface WritingWorld {
  secret: string;
  /** Where readers reach the application, without a slash at the end. */
  publicUrl: string;
  /** The domain at which mail is taken in; nothing where none is. */
  mailDomain?: string | undefined;
  /** The engine's best knowledge of the database's clock. */
  nowMs: () => number;
}

/** A letter that could not be laid out, with why. */
interface Unwritten {
  error: unknown;
}

/** A mail with the deliveries it makes: one, or those of a bundle. */
export type Written = [ClaimedMail[], Mail];

export interface WrittenMail {
  letters: Written[];
  unwritten: [ClaimedMail, unknown][];
}

/** So many laid-out letters are kept, of the last occurrences. */
const MOST_KEPT = 50;

/** Writes the letters of claimed mail. Those of the last occurrences are kept laid out, so that a large send is laid out once. */
export class MailWriting {
  readonly #db: Database;
  readonly #world: WritingWorld;
  readonly #letters = new Map<string, LaidOut>();
  readonly #bundles: Bundles;

  constructor(db: Database, world: WritingWorld) {
    this.#db = db;
    this.#world = world;
    this.#bundles = new Bundles(world.publicUrl);
  }

  /** The letters of claimed mail, and what could not be written with its error. */
  async write(claimed: readonly ClaimedMail[]): Promise<WrittenMail> {
    const ids = [...new Set(claimed.map((mail) => mail.occurrenceId))];
    const occurrences = await occurrencesByIds(this.#db, ids);
    const [laidOut, { home, why }] = await Promise.all([
      this.#layOutAll(ids, occurrences),
      this.#reasons(claimed, occurrences),
    ]);
    const nowMs = this.#world.nowMs();
    const single: [ClaimedMail, WrittenPart][] = [];
    const unwritten: [ClaimedMail, unknown][] = [];
    for (const row of claimed) {
      try {
        const known = laidOut.get(row.occurrenceId);
        if (!known) throw new Error('its send is gone');
        if ('error' in known) throw known.error;
        single.push([row, this.#partOf(row, known, why(row, known), nowMs)]);
      } catch (error) {
        unwritten.push([row, error]);
      }
    }
    const letters = await Promise.all(
      bundlesIn(single).map(async (parts): Promise<Written> => {
        const of = parts.map(([row]) => row);
        const [[, first] = []] = parts;
        return first && parts.length === 1
          ? [of, first.mail]
          : [of, await this.#bundles.mailOf(parts, home ?? 'Clear Bell')];
      }),
    );
    return { letters, unwritten };
  }

  /** Why each gets it, in words: by the audience of its send, or because somebody is linked to them. */
  async #reasons(claimed: readonly ClaimedMail[], occurrences: ReadonlyMap<number, Occurrence>) {
    const db = this.#db;
    const now = await audienceContext(db);
    const audiences = [...occurrences.values()].flatMap(({ plan }) => plan.audience ?? []);
    const [facts, names, home] = await Promise.all([
      factsOf(
        db,
        claimed.map((mail) => mail.personId),
        { kind: 'any', of: audiences },
        now,
      ),
      audienceNames(db, now, audiences),
      organisation(db),
    ]);
    const why = (row: ClaimedMail, { occurrence: { plan }, byItself }: LaidOut): string => {
      if (row.linkedTo !== null)
        return `You get a copy because you are linked to ${row.linkedTo}${row.relation === '' ? '' : ` (${row.relation})`}.`;
      const person = facts.get(row.personId);
      const reasons = plan.audience && person ? reasonsKnown(plan.audience, person, now, names) : [];
      return [whyWords(reasons, home?.name ?? 'the organisation'), byItself].filter(Boolean).join(' ');
    };
    return { home: home?.name, why };
  }

  /** The mail of one delivery, filled in for its reader. */
  #partOf(row: ClaimedMail, known: LaidOut, why: string, nowMs: number): WrittenPart {
    const { secret, publicUrl } = this.#world;
    const { occurrence, letter, copy, fromName, stoppable, eventMs, calendar, files } = known;
    const claim = { occurrenceId: occurrence.rollOf, personId: row.personId };
    const link = (purpose: LinkPurpose): string => signLink(secret, { ...claim, purpose }, nowMs);
    const host = new URL(publicUrl).hostname;
    const unsubscribeUrl = `${publicUrl}/m/unsubscribe/${link('unsubscribe')}`;
    const deadline = occurrence.deadlineMs;
    const filled = (row.linkedTo === null ? letter : copy)({
      why,
      readUrl: `${publicUrl}/for-me/${row.occurrenceId}`,
      answerUrl: answerUrlOf(occurrence, publicUrl, link),
      unsubscribeUrl,
      passOnUrl: `${publicUrl}/m/event/${link('event')}`,
      comingUrl: `${publicUrl}/m/coming/${link('coming')}`,
      deadline:
        deadline === null ? '' : `${momentWords(deadline, row.zone, nowMs)} (${zoneWords(row.zone)} time)`,
      reader: {
        name: row.name,
        greeting: row.greeting,
        station: row.station,
        occupation: row.occupation,
        zone: row.zone,
        atMs: nowMs,
        eventMs,
      },
    });
    const mail = {
      messageId: `<${row.occurrenceId}.${row.personId}.mail@${host}>`,
      fromName,
      toName: row.name,
      to: row.mail,
      subject: occurrence.kind === 'test' ? `Test: ${occurrence.title}` : occurrence.title,
      html: filled.html,
      text: filled.text,
      urgent: occurrence.importance === 'urgent',
      listId: `<announcements.${host}>`,
      unsubscribeUrl: stoppable ? unsubscribeUrl : null,
      calendar,
      files,
      returnTo: this.#returnTo(row),
    };
    return { mail, filled, asks: occurrence.asked.kind !== 'nothing' };
  }

  /** Where what comes back of a mail to somebody goes; nothing where no mail is taken in. */
  #returnTo({ personId, occurrenceId }: ClaimedMail): string | undefined {
    const { secret, mailDomain } = this.#world;
    return mailDomain === undefined ? undefined : backAddress(secret, mailDomain, personId, occurrenceId);
  }

  /** The letters of some sends; of those that cannot be laid out, why. */
  async #layOutAll(
    ids: readonly number[],
    occurrences: ReadonlyMap<number, Occurrence>,
  ): Promise<Map<number, LaidOut | Unwritten>> {
    return new Map(
      await Promise.all(
        ids.map(async (id): Promise<[number, LaidOut | Unwritten]> => {
          const occurrence = occurrences.get(id);
          try {
            if (!occurrence || occurrence.unreadable)
              throw new Error('its plan cannot be read by this version of Clear Bell');
            return [id, await this.#letterOf(occurrence)];
          } catch (error) {
            return [id, { error }];
          }
        }),
      ),
    );
  }

  async #letterOf(occurrence: Occurrence): Promise<LaidOut> {
    // What was corrected meanwhile is laid out anew.
    const key = `${occurrence.id}:${occurrence.versionId}`;
    const known = this.#letters.get(key);
    if (known) return known;
    const laidOut = await layOut(this.#db, this.#world.publicUrl, occurrence);
    this.#letters.set(key, laidOut);
    const oldest = this.#letters.keys().next();
    if (this.#letters.size > MOST_KEPT && !oldest.done) this.#letters.delete(oldest.value);
    return laidOut;
  }
}

function answerUrlOf(
  { asked }: Occurrence,
  publicUrl: string,
  link: (purpose: LinkPurpose) => string,
): string {
  if (asked.kind === 'nothing') return '';
  const { page } = servedKind(asked);
  return `${publicUrl}/m/${page}/${link(page)}`;
}
