import { eventLink, eventSpan } from '../../core/content/event.ts';
import { sectionsHtml, fillFor } from '../../core/content/html.ts';
import { markdownOf } from '../../core/content/markdown.ts';
import { documentText, sectionsText } from '../../core/content/text.ts';
import { sampleFields, type PlaceFields } from '../../core/gateways/placeFields.ts';
import { bodyOf } from '../../core/gateways/placeTemplate.ts';
import type { Content } from '../../core/content/announcement.ts';
import { versionById } from '../announcements/versionStore.ts';
import type { Database } from '../database/connection.ts';
import { organisation } from '../people/store.ts';
import { occurrenceById, type Occurrence } from '../sends/occurrenceStore.ts';
import { addressIn } from '../uploads/address.ts';
import { lineUpChange } from './placeStore.ts';

/** What an outside place is told of a text, besides what happened to it. */
type OfText = Omit<PlaceFields, 'id' | 'change' | 'organisation' | 'url' | 'at' | 'note'>;

const inUtc = (atMs: number): string => new Date(atMs).toISOString();

/**
 * A text as an outside place is told of it: nobody's in particular, so that fields of a reader stand as what stands for them.
 *
 * @param address gives the path of an upload the signature by which it can be read there
 */
function ofText(
  content: Content,
  from: string,
  publicUrl: string,
  address: (path: string) => string,
): OfText {
  const fill = fillFor(null);
  const span = content.event && eventSpan(content.event);
  const sections = content.sections.map((section) => ({
    heading: section.heading.trim(),
    accent: section.accent,
    text: documentText(section.document, fill),
    markdown: markdownOf(section.document, fill).trim(),
  }));
  return {
    title: content.title,
    text: sectionsText(content.sections, fill, publicUrl),
    markdown: sections
      .map(({ heading, markdown }) => [heading && `## ${heading}`, markdown].filter(Boolean).join('\n\n'))
      .filter(Boolean)
      .join('\n\n'),
    html: sectionsHtml(content.sections, fill, { kind: 'mail', publicUrl, address }),
    sections,
    importance: content.importance,
    from,
    button: content.button,
    event:
      content.event && span
        ? {
            starts: inUtc(span.startMs),
            ends: inUtc(span.endMs),
            zone: content.event.zone,
            place: content.event.place,
            link: eventLink(content.event) ?? '',
          }
        : null,
  };
}

const WITHDRAWN: Pick<PlaceFields, 'sections' | 'button' | 'event'> = {
  sections: [],
  button: null,
  event: null,
};

/** What a place is told of a going-out: its text as it stands now, or why it was withdrawn. */
async function fieldsOf(
  db: Database,
  occurrence: Occurrence,
  told: { change: PlaceFields['change']; note: string },
  publicUrl: string,
): Promise<PlaceFields> {
  const [version, home] = await Promise.all([versionById(db, occurrence.versionId), organisation(db)]);
  if (!version) throw new Error('its text is gone');
  const of = ofText(
    version,
    version.byline || occurrence.createdByName,
    publicUrl,
    addressIn('sent', occurrence.id, 'mail'),
  );
  const said = {
    id: occurrence.id,
    ...told,
    organisation: home?.name ?? '',
    url: `${publicUrl}/for-me/${occurrence.id}`,
    at: inUtc(occurrence.endsMs),
  };
  if (!occurrence.withdrawn) return { ...of, ...said };
  const words = `Withdrawn: ${occurrence.withdrawn.note}`;
  return {
    ...of,
    ...WITHDRAWN,
    ...said,
    text: words,
    markdown: words,
    html: '',
    note: occurrence.withdrawn.note,
  };
}

/**
 * The body with which a handover goes to an outside place: of a going-out as it stands at this moment, or of nothing but a trial.
 *
 * @throws where it cannot be filled in, with the reason
 */
export async function placeBody(
  db: Database,
  template: string,
  handover: { occurrenceId: number | null; body: string },
  publicUrl: string,
): Promise<string> {
  if (handover.occurrenceId === null) {
    const home = await organisation(db);
    return bodyOf(template, sampleFields(home?.name ?? '', publicUrl, Date.now()));
  }
  const { data } = JSON.parse(handover.body) as {
    data: { change: PlaceFields['change']; note?: string };
  };
  const occurrence = await occurrenceById(db, handover.occurrenceId);
  if (!occurrence) throw new Error('its send is gone');
  return bodyOf(template, await fieldsOf(db, occurrence, { note: '', ...data }, publicUrl));
}

/** The body an outside place would get of a draft, for its rehearsal. @throws where it cannot be filled in, with the reason */
export async function draftBody(
  db: Database,
  template: string,
  draft: { content: Content; author: string; dueMs: number },
  publicUrl: string,
): Promise<string> {
  const home = await organisation(db);
  return bodyOf(template, {
    ...ofText(draft.content, draft.content.byline || draft.author, publicUrl, (path) => path),
    id: 0,
    change: 'sent',
    organisation: home?.name ?? '',
    url: `${publicUrl}/for-me/0`,
    at: inUtc(draft.dueMs),
    note: '',
  });
}

/** Tells outside places of what became of a going-out after it was handed to them. */
export async function notifyPlaces(
  trx: Database,
  occurrenceId: number,
  change: 'corrected' | 'withdrawn' | 'reinstated',
  event: number,
): Promise<void> {
  const occurrence = await occurrenceById(trx, occurrenceId);
  if (!occurrence) return;
  const note = change === 'corrected' ? occurrence.correction : occurrence.withdrawn?.note;
  await lineUpChange(trx, occurrence, { change, note: note ?? '' }, event);
}
