import type { Ask } from '../core/asks/ask.ts';
import type { AskTimes } from './askTimes.ts';
import type { Importance } from '../core/content/announcement.ts';
import type { Audience } from '../core/audience/expression.ts';
import type { Block, Doc, Inline } from '../core/content/document.ts';
import { emptySection, type Accent, type Section } from '../core/content/section.ts';
import { WEEKLY, type Rule } from '../core/timing/rule.ts';
import type { Drawing } from './pictures.ts';

/** Inline text with *italic*, **bold** and [label](link), enough for the demo's own words. */
function inline(text: string): Inline[] {
  return text
    .split(/(\*\*[^*]+\*\*|\*[^*]+\*|\[[^\]]+\]\([^)]+\))/)
    .filter(Boolean)
    .map((part): Inline => {
      const link = /^\[([^\]]+)\]\(([^)]+)\)$/.exec(part);
      if (link)
        return {
          type: 'text',
          text: link[1] ?? '',
          marks: [{ type: 'link', attrs: { href: link[2] ?? '' } }],
        };
      if (part.startsWith('**')) return { type: 'text', text: part.slice(2, -2), marks: [{ type: 'bold' }] };
      if (part.startsWith('*')) return { type: 'text', text: part.slice(1, -1), marks: [{ type: 'italic' }] };
      return { type: 'text', text: part };
    });
}

/** Blocks from lines: "## " begins a heading, "- " a bullet, "1. " a number, anything else is a paragraph. */
export function doc(...lines: string[]): Doc {
  const content: Block[] = [];
  for (const text of lines) {
    const list = text.startsWith('- ') ? 'bulletList' : /^\d+\. /.test(text) ? 'orderedList' : null;
    if (list) {
      const item = {
        type: 'listItem' as const,
        content: [{ type: 'paragraph' as const, content: inline(text.replace(/^(- |\d+\. )/, '')) }],
      };
      const last = content.at(-1);
      if (last && last.type === list) last.content.push(item);
      else content.push({ type: list, content: [item] });
    } else if (text.startsWith('## '))
      content.push({ type: 'heading', attrs: { level: 2 }, content: inline(text.slice(3)) });
    else content.push({ type: 'paragraph', content: inline(text) });
  }
  return { type: 'doc', content };
}

/** Who something goes to, by the names of groups; everyone where it says so. */
export interface Addressed {
  to: 'everyone' | string[];
  except?: string[];
}

export interface Item {
  title: string;
  byline?: string;
  importance?: Importance;
  document?: Doc;
  sections?: Section[];
  /** A picture in its first section. */
  picture?: Drawing;
  button?: { label: string; url: string };
  event?: { day: number; at: string; minutes: number; place: string; link: string; signUp: boolean };
  issue?: { category: string; number: number };
  whom: Addressed | null;
  /** Instead of `whom`, where groups cannot say it. */
  audience?: Audience;
  contacts?: boolean;
  /** At that hour in the coordinating office unless it says otherwise. */
  when?: 'local' | 'recurring' | 'before event';
  rule?: Rule;
  /** Of what recurs: by each reader's clock. */
  byReaders?: boolean;
  minutesBefore?: number;
  boards: string[];
  mail?: boolean;
  /** Days from today in the coordinating office's zone, and the hour there. */
  day: number;
  at: string;
  /** Hours after going out by which to acknowledge; 0 for no deadline. */
  acknowledge?: number;
  /** What is asked instead of an acknowledgement. */
  ask?: (times: AskTimes) => Ask;
  /** Share of those asked who have acknowledged, where it is past. */
  answered?: number;
  by: string;
  recalled?: boolean;
}

const shop = 'https://thistledown.example';

export const ITEMS: Item[] = [
  {
    title: 'New humidity limits in every vault',
    byline: 'from the vault office',
    importance: 'important',
    document: doc(
      'From the first of the month the limit for relative humidity is **15 %**, down from 18 %. Readings above it must be reported within the hour.',
      '- Check the gauge by the inner door, not the one in the lobby.',
      '- Write the reading on the sheet before you open a drawer.',
      '- If it is over the limit, close the door and call the keyholder on duty.',
      'The reason is simple: orthodox seed loses half its life for each step of moisture it gains.',
    ),
    whom: { to: ['Vault keyholders', 'First aiders'], except: ['On leave'] },
    boards: ['Vault alerts'],
    day: -5,
    at: '10:00',
    acknowledge: 96,
    answered: 0.74,
    by: 'maud',
  },
  {
    title: 'Fire drill in the drying rooms this Thursday',
    byline: 'from the safety desk',
    importance: 'important',
    document: doc(
      'On Thursday all stations practise leaving the drying rooms. It takes ten minutes.',
      '1. Switch the dryers to rest.',
      '2. Leave by the door you came in by.',
      '3. Meet at the station’s sign and be counted.',
      'Please acknowledge, so that we know who has read this.',
    ),
    whom: { to: 'everyone', except: ['On leave'] },
    boards: ['All stations'],
    day: -3,
    at: '09:00',
    acknowledge: 120,
    answered: 0.82,
    by: 'maud',
  },
  {
    title: 'House rules, read this first',
    byline: 'from the network office',
    document: doc(
      'These are the rules that hold at all nine stations. They are few, and they are meant.',
      '## In the vaults',
      '- Two people go in together, always.',
      '- Nothing that was eaten, drunk or watered comes past the second door.',
      '## In the field',
      '- Take one seed in five, never more.',
      '- Write the place before you fill the bag.',
      '## With each other',
      '- Ask. Nobody minds being asked twice.',
    ),
    whom: null,
    boards: ['House rules'],
    day: -55,
    at: '11:00',
    by: 'maud',
  },
  {
    title: 'How seed loans work',
    byline: 'from the loans desk',
    document: doc(
      'A loan leaves a station only when its form is complete: species, weight, purpose, and the date it comes back as new seed.',
      'Loans of red-list species need two signatures. Ask the loans desk before you promise anything.',
    ),
    button: { label: 'Open the loan form', url: `${shop}/loans` },
    whom: null,
    boards: ['House rules'],
    day: -48,
    at: '14:00',
    by: 'jago',
  },
  {
    title: 'Freezer 3 at Kestrel Gorge is back',
    byline: 'from the vault office',
    document: doc(
      'The compressor was changed on Tuesday night. All 412 accessions are safe and back in their drawers. Thank you to everyone who carried boxes at two in the morning.',
    ),
    whom: { to: ['Vault keyholders'] },
    boards: ['Vault alerts'],
    day: -16,
    at: '08:20',
    by: 'jago',
  },
  {
    title: 'Freezer 3 at Kestrel Gorge is warming',
    byline: 'from the vault office',
    importance: 'urgent',
    document: doc(
      'The alarm went at 21:40 local time. **Keyholders at Kestrel Gorge: move drawers 30 to 44 to freezer 1 now.** Everyone else: no action.',
    ),
    whom: { to: ['Vault keyholders'] },
    boards: ['Vault alerts'],
    day: -18,
    at: '18:52',
    acknowledge: 2,
    answered: 1,
    by: 'jago',
  },
  {
    title: 'Who drives where in the northern season',
    document: doc(
      'The list of vehicles and drivers for the northern season is out. Swap among yourselves until Friday, then it is fixed.',
    ),
    button: { label: 'See the list', url: `${shop}/drivers` },
    whom: { to: ['Field collectors on the road'] },
    boards: ['Field season'],
    day: -12,
    at: '13:30',
    by: 'maud',
  },
  {
    title: 'Permits for the Sant Elm transect',
    byline: 'from Sant Elm',
    document: doc(
      'The permits came. They name people, not stations: if your name is not on the sheet you may walk along but not collect.',
    ),
    whom: { to: ['Sant Elm', 'Field collectors on the road'], except: ['On leave'] },
    boards: ['Sant Elm', 'Field season'],
    day: -9,
    at: '09:15',
    acknowledge: 0,
    answered: 0.55,
    by: 'nuria',
  },
  {
    title: 'Welcome to those who joined this season',
    byline: 'from the network office',
    document: doc(
      'Nine stations, one catalogue, and now you. In your first weeks:',
      '- read [the house rules](https://thistledown.example/rules),',
      '- walk through a vault with a keyholder,',
      '- and sow one tray of your own.',
    ),
    whom: { to: ['New this season'] },
    boards: [],
    day: -20,
    at: '10:30',
    by: 'maud',
  },
  {
    title: 'Catalogue: 1,200 labels to check',
    document: doc(
      'The scan left 1,200 labels with a question mark. Take a hundred each; the tray numbers are in the shared sheet. Write what you see, not what you expect.',
    ),
    whom: { to: ['Catalogue working party'] },
    boards: ['Catalogue working party'],
    day: -14,
    at: '15:00',
    by: 'jago',
  },
  {
    title: 'Trustees: papers for the winter meeting',
    byline: 'from the secretary',
    importance: 'important',
    document: doc(
      'The papers are ready: accounts, the plan for a tenth station, and the report on germination. Please acknowledge that you have them.',
    ),
    button: { label: 'Read the papers', url: `${shop}/trustees/winter` },
    whom: { to: ['Trustees'] },
    boards: [],
    day: -8,
    at: '17:00',
    acknowledge: 240,
    answered: 0.6,
    by: 'maud',
  },
  {
    title: 'Harvest day lunch: bring a bowl',
    document: doc('There will be soup at every station. Bring a bowl, take a second helping.'),
    whom: { to: 'everyone' },
    boards: ['All stations'],
    day: -11,
    at: '12:00',
    recalled: true,
    by: 'jago',
  },
  {
    title: 'Frost expected at Juniper Flat',
    byline: 'from Juniper Flat',
    importance: 'important',
    document: doc('Minus six tonight. Cover the cold frames before dusk and bring the buckets in.'),
    whom: { to: ['Juniper Flat'] },
    boards: ['Juniper Flat'],
    day: -1,
    at: '19:30',
    by: 'maud',
  },
  {
    title: 'Readings of the week: all vaults within limits',
    byline: 'from the vault office',
    document: doc(
      'Nine vaults, sixty-three readings, none over the limit. The driest was Oru Terrace with 11 %.',
    ),
    whom: { to: ['Vault keyholders'] },
    boards: ['Vault alerts'],
    day: -1,
    at: '16:00',
    by: 'jago',
  },
  // Today.
  {
    title: 'Vault drill today: who has the second key',
    byline: 'from the vault office',
    importance: 'important',
    document: doc(
      'Today every station opens its vault with the second key. Please acknowledge, with the key in your hand.',
    ),
    whom: { to: ['Vault keyholders'], except: ['On leave'] },
    boards: ['Vault alerts'],
    day: 0,
    at: '00:45',
    acknowledge: 22,
    answered: 0.4,
    by: 'maud',
  },
  {
    title: 'Germination tests due this week',
    document: doc('Forty-one trays are due for counting. Yours are on the sheet by the incubator.'),
    whom: { to: ['Marrow Fen', 'Sant Elm', 'Quillan Head'], except: ['On leave'] },
    boards: ['Marrow Fen', 'Sant Elm', 'Quillan Head'],
    day: 0,
    at: '01:30',
    by: 'jago',
  },
  {
    title: 'Road closed below Kestrel Gorge',
    byline: 'from Kestrel Gorge',
    importance: 'urgent',
    document: doc(
      'The lower road is closed by a landslip. Take the ridge road and allow forty minutes more.',
    ),
    whom: { to: ['Kestrel Gorge', 'Field collectors on the road'] },
    boards: ['Kestrel Gorge', 'Field season'],
    day: 0,
    at: '02:10',
    acknowledge: 4,
    answered: 0.7,
    by: 'maud',
  },
  {
    title: 'Silica gel arrives at noon',
    document: doc('Two hundred kilos. Four people with strong backs at the gate, please.'),
    whom: { to: ['Marrow Fen'] },
    boards: ['Marrow Fen'],
    day: 0,
    at: '09:30',
    by: 'jago',
  },
  {
    title: 'Photographs for the autumn report',
    byline: 'from the network office',
    document: doc(
      'Send one photograph from your station by tonight: a person, a plant, a place. Landscape format, and say who is in it.',
    ),
    whom: { to: 'everyone', except: ['Trustees', 'On leave'] },
    boards: ['All stations'],
    day: 0,
    at: '13:00',
    by: 'maud',
  },
  {
    title: 'Evening readings: please be prompt',
    document: doc('Readings after 18:30 miss the nightly summary. Five minutes now save an hour tomorrow.'),
    whom: { to: ['Vault keyholders'], except: ['On leave'] },
    boards: [],
    mail: false,
    day: 0,
    at: '17:45',
    by: 'jago',
  },
  {
    title: 'Tomorrow in the field: southern stations',
    document: doc('Mallee Reach and Tarn Hollow set out at first light. Water, hats, and the long tweezers.'),
    whom: { to: ['Mallee Reach', 'Tarn Hollow'] },
    boards: ['Field season'],
    day: 0,
    at: '20:15',
    by: 'maud',
  },
  {
    title: 'Evening check of the vault',
    byline: 'from the vault office',
    document: doc(
      'Read humidity and temperature at the inner door and write both on the sheet. If either is past its limit, close the door and call the keyholder on duty.',
    ),
    whom: { to: ['Vault keyholders'], except: ['On leave'] },
    boards: [],
    mail: false,
    day: -30,
    at: '18:30',
    when: 'recurring',
    rule: { ...WEEKLY, freq: 'daily' },
    byReaders: true,
    by: 'jago',
  },
  {
    title: 'Your lines for the next Seed Tray',
    byline: 'from the network office',
    document: doc(
      'By noon, please: two lines from each station, a picture if there is one, and any date to be told.',
    ),
    whom: null,
    audience: {
      kind: 'any',
      of: [
        { kind: 'role', role: 'editor' },
        { kind: 'role', role: 'coordinator' },
      ],
    },
    boards: [],
    day: -49,
    at: '08:15',
    when: 'recurring',
    rule: { ...WEEKLY, weekdays: ['FR'] },
    by: 'maud',
  },
  {
    title: 'Drying room rota, first half of the month',
    document: doc('Names and days are on the sheet by the door. Swap among yourselves and tell the station.'),
    whom: { to: ['Quillan Head', 'Marrow Fen', 'Sant Elm'] },
    boards: [],
    day: -56,
    at: '16:00',
    when: 'recurring',
    rule: { ...WEEKLY, freq: 'monthly', monthly: { by: 'position', position: -1, weekday: 'TH' } },
    by: 'jago',
  },
  {
    title: 'An evening in the drying room',
    byline: 'from the network office',
    sections: [
      section(
        's1',
        '',
        'none',
        'Come and see where the seed rests. Bring somebody who has never been inside.',
      ),
      section(
        's2',
        'What you will see',
        'ochre',
        '- The sieves, in use.',
        '- The dryers, at rest.',
        '- Ten drawers, open.',
      ),
    ],
    picture: 'drawers',
    event: {
      day: -1,
      at: '18:00',
      minutes: 90,
      place: 'The drying room, Marrow Fen',
      link: '',
      signUp: true,
    },
    whom: { to: 'everyone', except: ['On leave'] },
    boards: ['All stations'],
    day: -6,
    at: '09:00',
    when: 'local',
    by: 'maud',
  },
  // The next two weeks.
  {
    title: 'Vault drill: what to bring',
    byline: 'from the safety desk',
    importance: 'important',
    document: doc('Your key, a torch, and the card with the numbers. It takes twenty minutes.'),
    event: {
      day: 5,
      at: '14:00',
      minutes: 20,
      place: 'At the vault of every station',
      link: '',
      signUp: false,
    },
    whom: { to: ['Vault keyholders'], except: ['On leave'] },
    boards: ['Vault alerts'],
    contacts: true,
    day: 4,
    at: '14:00',
    when: 'before event',
    minutesBefore: 1440,
    acknowledge: 20,
    by: 'maud',
  },
  {
    title: 'Good morning, it is counting week',
    byline: 'from the network office',
    sections: [
      section(
        's1',
        '',
        'none',
        'From today every station counts its drawers. Start at the top left, end at the bottom right, and write as you go.',
      ),
      section(
        's2',
        'If the number is not the one on the card',
        'madder',
        'Count again. If it still is not, write both down and carry on.',
      ),
    ],
    picture: 'poppies',
    whom: { to: 'everyone', except: ['On leave'] },
    boards: ['All stations'],
    day: 6,
    at: '09:00',
    when: 'local',
    acknowledge: 96,
    by: 'maud',
  },
  {
    title: 'Online open morning: how to join',
    byline: 'from the network office',
    document: doc(
      'Visitors from everywhere, two hours, every station on camera for five minutes. Sign up for your five minutes.',
    ),
    button: { label: 'See the programme', url: `${shop}/open-morning` },
    event: {
      day: 9,
      at: '10:00',
      minutes: 120,
      place: '',
      link: `${shop}/open-morning/room`,
      signUp: true,
    },
    whom: { to: 'everyone', except: ['On leave'] },
    boards: ['All stations'],
    day: 2,
    at: '10:00',
    acknowledge: 72,
    by: 'maud',
  },
  {
    title: 'Stocktaking in the drying rooms',
    document: doc('Count trays, sieves and envelopes. One sheet a room, signed by two.'),
    whom: { to: ['Quillan Head', 'Marrow Fen', 'Sant Elm'] },
    boards: [],
    day: 3,
    at: '08:30',
    by: 'jago',
  },
  {
    title: 'Vault keys change hands',
    byline: 'from the vault office',
    importance: 'important',
    document: doc(
      'The second keys go to their new holders on Friday. Please acknowledge that you know whom to hand yours to.',
    ),
    whom: { to: ['Vault keyholders'] },
    boards: ['Vault alerts'],
    day: 4,
    at: '11:00',
    acknowledge: 48,
    by: 'maud',
  },
  {
    title: 'Harvest days in the south: who can travel',
    document: doc(
      'Mallee Reach and Tarn Hollow need six more pairs of hands in the second week. Travel is paid.',
    ),
    whom: { to: ['Field collectors on the road', 'New this season'], except: ['On leave'] },
    boards: ['Field season'],
    day: 7,
    at: '09:00',
    by: 'maud',
  },
  {
    title: 'First aid refresher: dates',
    document: doc('Four dates, one hour each. Choose one with your station.'),
    whom: { to: ['First aiders'] },
    boards: [],
    day: 9,
    at: '14:00',
    by: 'jago',
  },
  {
    title: 'Winter closing times',
    byline: 'from the network office',
    document: doc('Stations close on the days listed. Vault readings go on: keyholders, see the rota.'),
    whom: { to: 'everyone' },
    boards: ['All stations', 'House rules'],
    day: 12,
    at: '09:00',
    by: 'maud',
  },
];

/** A section of the demo's own words. */
function section(id: string, heading: string, accent: Accent, ...lines: string[]): Section {
  return { ...emptySection(id), heading, accent, document: doc(...lines) };
}

export const CATEGORIES = ['From the vaults', 'From the field', 'People', 'Methods', 'Letters'] as const;

const TRAY_SUBJECTS = [
  'a tray of sea kale that would not wake',
  'what the drying room taught us',
  'the oldest envelope in the vault',
  'counting to a hundred, a hundred times',
  'a hedgerow in four seasons',
  'letters from the southern stations',
] as const;

/** One issue of the weekly bulletin; the newest has the highest number. */
export function seedTray(number: number, weeksAgo: number, dayOfMonday: number): Item {
  const subject = TRAY_SUBJECTS[number % TRAY_SUBJECTS.length] ?? TRAY_SUBJECTS[0];
  return {
    title: `The Seed Tray No. ${number}: ${subject}`,
    byline: 'the weekly bulletin of the network',
    sections: [
      section('s1', '', 'none', `This week: ${subject}.`),
      section(
        's2',
        'From the vaults',
        'verdigris',
        `We banked ${12 + ((number * 7) % 23)} new accessions and lent ${3 + (number % 5)}.`,
      ),
      section(
        's3',
        'From the field',
        'bronze',
        'Everyone is back, with mud. The best find is on the Field season board.',
      ),
      section(
        's4',
        'Dates',
        'slate',
        '- Tuesday: catalogue working party',
        '- Thursday: vault readings due by noon',
      ),
    ],
    issue: { category: CATEGORIES[number % CATEGORIES.length] ?? CATEGORIES[0], number },
    whom: { to: 'everyone' },
    boards: ['All stations'],
    day: dayOfMonday - weeksAgo * 7,
    at: '09:00',
    by: 'maud',
  };
}
