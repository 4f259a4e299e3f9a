import type { Automation } from '../core/automation/automation.ts';
import type { Condition } from '../core/automation/condition.ts';
import type { Image } from '../core/content/section.ts';
import { automation, bullets, filled, nobody, paragraph } from '../core/automation/writing.ts';
import type { SheetColumn, SheetForm } from '../core/sheets/sheet.ts';
import { WEEKLY } from '../core/timing/rule.ts';

const column = (
  id: string,
  name: string,
  kind: SheetColumn['kind'] = 'text',
  unit = '',
  choices: string[] = [],
): SheetColumn => ({ id, name, kind, unit, choices });

export interface DemoSheet {
  name: string;
  purpose: string;
  columns: SheetColumn[];
  form: SheetForm | null;
}

export const SHEETS = {
  readings: {
    name: 'Vault readings',
    purpose: 'The last humidity and temperature of each vault, with the limits that hold there.',
    columns: [
      column('c1', 'Vault'),
      column('c2', 'Humidity', 'number', '%'),
      column('c3', 'Limit', 'number', '%'),
      column('c4', 'Temperature', 'number', '°C'),
      { ...column('c5', 'Of its limit', 'number', '%'), formula: 'round(c2 / c3 * 100, 0)' },
    ],
    form: null,
  },
  loans: {
    name: 'Seed loans requested',
    purpose: 'Loans asked for by other collections; complete once a curator is named.',
    columns: [
      column('c1', 'Accession'),
      column('c2', 'Grams', 'number', 'g'),
      column('c3', 'For'),
      column('c4', 'Curator', 'person'),
      column('c5', 'Needed by', 'date'),
    ],
    form: null,
  },
  tests: {
    name: 'Germination tests due',
    purpose: 'Batches to be tested, with the technician’s mail address.',
    columns: [
      column('c1', 'Batch'),
      column('c2', 'Station'),
      column('c3', 'Due', 'date'),
      column('c4', 'Technician', 'person'),
      column('c5', 'Done', 'yes or no'),
    ],
    form: null,
  },
  trips: {
    name: 'Field trips',
    purpose: 'Who goes where on which day.',
    columns: [
      column('c1', 'Site'),
      column('c2', 'On', 'date'),
      column('c3', 'Leads', 'person'),
      column('c4', 'People', 'number'),
    ],
    form: null,
  },
  kit: {
    name: 'Field kit asked for',
    purpose: 'What a station needs for its next trip. Filled in by a form.',
    columns: [
      column('c1', 'Station'),
      column('c2', 'What is needed'),
      column('c3', 'By', 'date'),
      column('c4', 'Whom to ask'),
    ],
    form: {
      open: false,
      intro: 'Tell the field desk what to pack. It goes out with the next van.',
      thanks: 'The field desk has it and packs it.',
      fields: [
        { column: 'c1', help: 'Where the van is to bring it', required: true },
        { column: 'c2', help: 'Bags, loupes, silica gel, tags …', required: true },
        { column: 'c3', help: '', required: false },
        { column: 'c4', help: 'Who can say more', required: false },
      ],
    },
  },
  consignments: {
    name: 'Consignments',
    purpose: 'Seed on its way between stations, as the records service keeps it. The notes are ours.',
    columns: [
      column('c1', 'Number'),
      column('c2', 'From'),
      column('c3', 'To'),
      column('c4', 'State'),
      column('c5', 'Due', 'date'),
      column('c6', 'Packets', 'number'),
      column('c7', 'Notes'),
    ],
    form: null,
  },
} as const satisfies Record<string, DemoSheet>;

/** The senders, each with what its picture shows; one has none. */
export const SENDERS = [
  { name: 'The vault desk', drawing: 'drawers' },
  { name: 'The welcome desk', drawing: 'poppies' },
  { name: 'The loans desk', drawing: null },
  { name: 'The field desk', drawing: 'hills' },
] as const;

/** The ids of what the demo's automations name. */
export interface Named {
  group: (name: string) => number;
  board: (name: string) => number;
  sheet: (name: keyof typeof SHEETS) => number;
  sender: (name: (typeof SENDERS)[number]['name']) => number;
  conditions: number;
  hook: (name: string) => number;
  session: (title: string) => number;
  /** What stands above the reminder of a session. */
  banner: Image;
  /** The date today in the organisation's zone, YYYY-MM-DD, and the Monday of eight weeks ago. */
  today: string;
  begun: string;
}

const ZONE = 'Europe/London';
const today = (field: string): Condition => ({
  kind: 'test',
  field,
  test: 'is',
  against: { kind: 'now', span: 0, unit: 'days' },
});

/** An automation with an image above its text. */
const withImage = (image: Image, { content, ...rest }: Automation): Automation => ({
  ...rest,
  content: { ...content, sections: content.sections.map((section) => ({ ...section, image })) },
});

/** The automations of the network, in the order in which they were made. */
export function demoAutomations(named: Named): Automation[] {
  const { group, board, sheet, sender } = named;
  const on = (at: string, start = named.begun): string => `${start}T${at}`;
  const daily = { ...WEEKLY, freq: 'daily' as const };
  return [
    automation(
      'Welcome to Sant Elm',
      { kind: 'joins', groupId: group('Sant Elm') },
      {
        tell: { ...nobody, to: { kind: 'person' }, boards: [board('Sant Elm')], mail: true },
        due: { kind: 'hour', time: '08:30' },
        senderId: sender('The welcome desk'),
        title: 'Welcome to Sant Elm, {their first name}',
        blocks: [
          paragraph('Good that you are here, ', ['person.first name'], '. This is what happens next:'),
          bullets(
            ['Núria shows you the vault and the drying room in your first week.'],
            ['The evening round is at half past five; somebody takes you along.'],
            ['What is going on stands on the board Sant Elm.'],
            ['Groups worth knowing: First aiders, which anybody may join, and the Catalogue working party.'],
          ),
        ],
        button: { label: 'Read the house rules', url: 'https://rules.thistledown.example' },
      },
    ),
    withImage(
      named.banner,
      automation(
        'Before the Thursday exchange',
        {
          kind: 'session',
          sessionId: named.session('Thursday exchange'),
          span: -20,
          unit: 'minutes',
          edge: 'begins',
        },
        {
          tell: {
            ...nobody,
            to: { kind: 'audience', audience: { kind: 'group', id: group('Field collectors on the road') } },
            boards: [board('Field season')],
          },
          senderId: sender('The field desk'),
          title: 'In twenty minutes: {the session}',
          blocks: [
            paragraph(
              ['mention.everybody'],
              ': it begins at ',
              ['session.begins'],
              '. Bring one find and one question.',
            ),
            bullets(
              ['Where: ', ['session.place', 'at every station']],
              ['To join it: ', ['session.link', 'from the desk of your station']],
            ),
            paragraph('Whoever cannot come reads the notes afterwards.'),
          ],
          button: { label: 'Open the notes', url: 'https://notes.thistledown.example/exchange' },
        },
      ),
    ),
    automation(
      'What came of what we asked',
      { kind: 'ask closes', asks: 'any', whose: 'all' },
      {
        tell: { ...nobody, to: { kind: 'author' } },
        title: '{how many have answered} of {how many were asked} answered “{the announcement}”',
        blocks: [paragraph(['ask.outcome']), paragraph(['ask.silent'], ' of those asked have not answered.')],
      },
    ),
    automation(
      'Evening check of the vaults',
      {
        kind: 'schedule',
        start: on('17:30'),
        zone: null,
        rule: { ...WEEKLY, weekdays: ['MO', 'TU', 'WE', 'TH', 'FR'] },
        sheetId: null,
      },
      {
        tell: {
          ...nobody,
          to: { kind: 'audience', audience: { kind: 'group', id: group('Vault keyholders') } },
        },
        senderId: sender('The vault desk'),
        title: 'The evening check',
        blocks: [
          paragraph('Doors, dials, keys. Write down what is unusual at ', ['station', 'your station'], '.'),
        ],
      },
    ),
    automation(
      'A loan request is complete',
      { kind: 'meets', sheetId: sheet('loans'), again: false },
      {
        if: filled('record.c1', 'record.c2', 'record.c3', 'record.c4'),
        tell: {
          ...nobody,
          to: { kind: 'named', field: 'record.c4', system: 'loans' },
          boards: [board('Loans')],
          mail: true,
          otherwise: { audience: { kind: 'role', role: 'coordinator' }, boards: [board('Loans')] },
        },
        senderId: sender('The loans desk'),
        title: '{Accession}: a loan to decide on',
        blocks: [
          paragraph(['record.c2'], ' of ', ['record.c1'], ' are asked for by ', ['record.c3'], '.'),
          paragraph('Needed by ', ['record.c5', 'no particular day'], '. Decide within three working days.'),
          paragraph(['mention.person', 'The desk'], ' decides.'),
        ],
      },
    ),
    automation(
      'Humidity near its limit',
      {
        kind: 'schedule',
        start: on('07:00'),
        zone: ZONE,
        rule: { ...WEEKLY, weekdays: ['WE', 'SA'] },
        sheetId: sheet('readings'),
      },
      {
        if: {
          kind: 'test',
          field: 'record.c2',
          test: 'is over',
          against: { kind: 'field', field: 'record.c3', share: 90 },
        },
        each: { kind: 'once' },
        tell: { ...nobody, boards: [board('Vault alerts')] },
        senderId: sender('The vault desk'),
        title: '{how many} of nine vaults past nine tenths of the limit',
        blocks: [paragraph('Air these, and look again in the evening:')],
        table: {
          columns: ['record.c1', 'record.c2', 'record.c3', 'record.c4'],
          order: { field: 'record.c2', descending: true },
          most: 9,
        },
      },
    ),
    automation(
      'Conditions for who leads a trip',
      { kind: 'schedule', start: on('05:45'), zone: ZONE, rule: daily, sheetId: sheet('trips') },
      {
        if: {
          kind: 'all',
          of: [today('record.c2'), ...(filled('record.c1').kind === 'all' ? [filled('record.c1')] : [])],
        },
        each: { kind: 'each' },
        lookup: { sourceId: named.conditions, inputs: { place: 'record.c1' } },
        tell: { ...nobody, to: { kind: 'named', field: 'record.c3', system: '' }, mail: true },
        senderId: sender('The field desk'),
        title: '{Site} this morning',
        blocks: [
          paragraph(
            'The river stands at ',
            ['found.river', 'an unknown level'],
            ' and it is ',
            ['found.temperature', 'of unknown warmth'],
            '.',
          ),
          paragraph('Frost: ', ['found.frost', 'not known'], '. Call the desk before you turn back.'),
        ],
      },
    ),
    automation(
      'Conditions at each site',
      { kind: 'schedule', start: on('05:30'), zone: ZONE, rule: daily, sheetId: sheet('trips') },
      {
        if: { kind: 'all', of: [today('record.c2'), filled('record.c1')] },
        each: { kind: 'group', field: 'record.c1' },
        lookup: { sourceId: named.conditions, inputs: { place: 'record.c1' } },
        tell: { ...nobody, boards: [board('Field season')] },
        senderId: sender('The field desk'),
        title: '{Site}: river at {river|an unknown level}',
        blocks: [paragraph('Frost: ', ['found.frost', 'not known'], '. These go there today:')],
        table: { columns: ['record.c3', 'record.c4'], order: null, most: 12 },
      },
    ),
    automation(
      'A parcel is on its way',
      { kind: 'called', hookId: named.hook('The courier') },
      {
        if: filled('call.batch', 'call.station'),
        tell: {
          ...nobody,
          to: { kind: 'audience', audience: { kind: 'group', id: group('Catalogue working party') } },
          mail: false,
        },
        senderId: sender('The loans desk'),
        title: '{batch} is on its way to {station}',
        blocks: [paragraph('It arrives ', ['call.arrives', 'at an hour the courier did not say'], '.')],
      },
    ),
    automation(
      'A loan is needed in two days',
      {
        kind: 'date',
        sheetId: sheet('loans'),
        column: 'c5',
        span: -2,
        unit: 'days',
        time: '09:00',
        zone: ZONE,
      },
      {
        if: filled('record.c1', 'record.c2'),
        tell: {
          ...nobody,
          to: { kind: 'audience', audience: { kind: 'role', role: 'editor' } },
          mail: false,
        },
        senderId: sender('The loans desk'),
        title: '{Accession} leaves in two days',
        blocks: [paragraph(['record.c2'], ' of ', ['record.c1'], '. Is it packed?')],
      },
    ),
    automation(
      'Field kit asked for',
      { kind: 'sent in', sheetId: sheet('kit') },
      {
        if: filled('record.c1', 'record.c2'),
        tell: {
          ...nobody,
          to: { kind: 'audience', audience: { kind: 'occupation', occupation: 'driver' } },
          mail: false,
        },
        senderId: sender('The field desk'),
        title: 'Pack for {Station}',
        blocks: [
          paragraph(['record.c2'], ', by ', ['record.c3', 'the next van'], '.'),
          paragraph('More from ', ['record.c4', 'the station itself'], '.'),
        ],
      },
    ),
    automation(
      'Germination tests due this week',
      {
        kind: 'schedule',
        start: on('08:00'),
        zone: ZONE,
        rule: { ...WEEKLY, weekdays: ['MO'] },
        sheetId: sheet('tests'),
      },
      {
        if: {
          kind: 'all',
          of: [
            {
              kind: 'test',
              field: 'record.c3',
              test: 'is before',
              against: { kind: 'now', span: 7, unit: 'days' },
            },
            { kind: 'test', field: 'record.c5', test: 'is not', against: { kind: 'value', value: 'yes' } },
            ...[filled('record.c1', 'record.c4')],
          ],
        },
        each: { kind: 'each' },
        tell: { ...nobody, to: { kind: 'named', field: 'record.c4', system: '' }, mail: true },
        senderId: sender('The vault desk'),
        title: 'Batch {Batch} is due for its test',
        blocks: [
          paragraph(
            'It was to be tested by ',
            ['record.c3', 'now'],
            ' at ',
            ['record.c2', 'your station'],
            '.',
          ),
        ],
        ceiling: 12,
      },
    ),
  ];
}
