import ICAL from 'ical.js';
import { sortNameOf } from '../people/names.ts';

const HEADINGS = [
  'Name',
  'Name to sort by',
  'How to greet them',
  'Mail',
  'Station',
  'Occupation',
  'Time zone',
];

/** One property of a card as jCard (RFC 7095): name, parameters, type, values. */
type Property = [string, Record<string, unknown>, string, ...unknown[]];

const text = (value: unknown): string =>
  typeof value === 'string' || typeof value === 'number' ? String(value).trim() : '';

function preferred(properties: Property[], name: string): Property | undefined {
  const rank = ([, parameters]: Property): number => Number(parameters.pref ?? 101);
  return properties.filter(([each]) => each === name).sort((a, b) => rank(a) - rank(b))[0];
}

/** Reads vCards of version 4.0 (RFC 6350), or 3.0 (RFC 2426), as rows under fixed headings. */
export function readCards(cards: string): { headings: string[]; rows: { line: number; cells: string[] }[] } {
  const rows: { line: number; cells: string[] }[] = [];
  let line = 1;
  for (const part of cards.split(/(?<=^END:VCARD[ \t]*\r?\n?)(?=[\s\S])/im)) {
    const at = line + (/^\s*/.exec(part)?.[0] ?? '').split('\n').length - 1;
    line += part.split('\n').length - 1;
    if (part.trim() === '') continue;
    rows.push({ line: at, cells: cellsOf(part.trim()) });
  }
  return { headings: HEADINGS, rows };
}

/** The cells of one card; one that cannot be read has none, which the check of its row then says. */
function cellsOf(card: string): string[] {
  let properties: Property[];
  try {
    const parsed = ICAL.parse(card) as unknown as [string, Property[]];
    properties = parsed[1];
  } catch {
    return HEADINGS.map(() => '');
  }
  const value = (name: string): unknown => preferred(properties, name)?.[3];
  const structured = (name: string): string[] => {
    const found = value(name);
    return Array.isArray(found) ? found.map(text) : [text(found)];
  };
  const [family = '', given = ''] = structured('n');
  return [
    text(value('fn')) || [given, family].filter(Boolean).join(' '),
    sortNameOf(given, family),
    text(value('nickname')),
    text(value('email')).replace(/^mailto:/i, ''),
    structured('org')[1] ?? '',
    text(value('title')) || text(value('role')),
    text(value('tz')),
  ];
}

export interface Card {
  uid: string;
  name: string;
  /** Family and given name with a comma between, or whatever else it is sorted by; empty where it is sorted by the name. */
  sortName: string;
  /** Empty where nothing of their own is noted. */
  greeting: string;
  mail: string | null;
  organisation: string;
  station: string;
  occupation: string;
  zone: string;
}

/** A card as vCard 4.0 (RFC 6350), with its line end. */
export function writeCard(card: Card): string {
  const vcard = new ICAL.Component(['vcard', [['version', {}, 'text', '4.0']], []], undefined);
  vcard.addPropertyWithValue('uid', card.uid);
  vcard.addPropertyWithValue('fn', card.name);
  const [family = '', given] = card.sortName.split(', ', 2);
  if (given !== undefined) {
    const property = new ICAL.Property('n', vcard);
    property.setValue([family, given, '', '', '']);
    vcard.addProperty(property);
  }
  if (card.greeting !== '') vcard.addPropertyWithValue('nickname', card.greeting);
  if (card.mail !== null) vcard.addPropertyWithValue('email', card.mail);
  if (card.organisation !== '' || card.station !== '') {
    const property = new ICAL.Property('org', vcard);
    property.setValue([card.organisation, ...(card.station === '' ? [] : [card.station])]);
    vcard.addProperty(property);
  }
  if (card.occupation !== '') vcard.addPropertyWithValue('title', card.occupation);
  if (card.zone !== '') vcard.addPropertyWithValue('tz', card.zone);
  return `${vcard.toString()}\r\n`;
}
