/** What members wrote straight to boards: days ago, board, author's address before the at-sign, title, text. */
export const MEMBER_POSTS: [number, string, string, string, string][] = [
  [
    1,
    'Marrow Fen',
    'wren',
    'The kettle in lab two is mended',
    'It was the fuse. There is a spare in the second drawer now.',
  ],
  [4, 'Cinder Bay', 'keola', 'Turtles on the south path', 'Please keep dogs on a lead until Sunday.'],
  [
    3,
    'Field season',
    'sarita',
    'Best find of the week',
    'A whole slope of blue poppies above the terrace, in seed, untouched.',
  ],
  [
    2,
    'Marrow Fen',
    'jago',
    'Bring your own mug on Friday',
    'The dishwasher is away for repair until Monday.',
  ],
  [
    6,
    'Field season',
    'nuria',
    'The road to the upper meadow is open again',
    'Gravel for the last two kilometres. Go slowly after rain, and tell the office when you are down.',
  ],
  [
    5,
    'Catalogue working party',
    'jago',
    'How we write uncertain names',
    'A question mark after the species, never before. Two question marks is a note for the next meeting.',
  ],
];

/** What waits until a moderator has looked: hours ago, board, author, title, text. */
export const HELD: [number, string, string, string, string][] = [
  [
    5,
    'Catalogue working party',
    'wren',
    'Labels printed twice in drawer forty',
    'The same number on two envelopes, in the same hand. I have put both aside and marked the drawer.',
  ],
];

/** What was said to posts: the title, then who said what. */
export const REPLIES: [string, [string, string][]][] = [
  [
    'Best find of the week',
    [
      ['nuria', 'Untouched, at that height? Did the goats not get there?'],
      ['sarita', 'The path fell away in the spring, so nobody did. We went by rope.'],
      ['nuria', 'Then please write down the way. And bring back the rope.'],
    ],
  ],
  [
    'The kettle in lab two is mended',
    [
      ['maud', 'The whole building thanks you.'],
      ['jago', 'Which drawer is the second one, from above or from below?'],
      ['wren', 'From above. I have put a label on it.'],
    ],
  ],
  [
    'The road to the upper meadow is open again',
    [
      ['sarita', 'Does that hold for the small van as well?'],
      ['nuria', 'Yes, without a trailer.'],
    ],
  ],
];

/** Thanks: days ago, ribbon, from whom, to whom, the sentence. */
export const THANKS: [number, string, string, string[], string][] = [
  [
    2,
    'Night lamp',
    'otieno',
    ['wren', 'jago'],
    'To those who carried forty boxes at two in the morning and still made breakfast.',
  ],
  [
    6,
    'Long road',
    'sarita',
    ['marli'],
    'For driving back for the forgotten tweezers. All ninety kilometres.',
  ],
  [11, 'Steady hands', 'nuria', ['wren'], 'Nine hundred seeds sown singly, and not one label mixed up.'],
  [17, 'Good question', 'kailani', ['keola'], 'For asking why the drying room is always cold on Mondays.'],
  [
    23,
    'Open door',
    'marli',
    ['aroha'],
    'For taking in four strangers and a trailer in the middle of a storm.',
  ],
  [31, 'First shoot', 'jago', ['sarita'], 'The first germination of a species nobody had managed before.'],
  [40, 'Night lamp', 'maud', ['otieno'], 'For sitting with the alarm until the engineer came.'],
];

/** The shelf: subject, narrower subject, question, answer, and the title of the announcement that said it. */
export const SHELF: [string, string | null, string, string[], string | null][] = [
  [
    'Vaults',
    'Keys',
    'Who may hold a vault key?',
    [
      'Whoever has done the vault drill in the last twelve months and is named on the station’s list.',
      '- Ask your curator to name you.',
      '- Keys are never lent, not even for an hour.',
    ],
    null,
  ],
  [
    'Vaults',
    'Keys',
    'I have lost my vault key. What now?',
    ['Ring the vault office at once, at any hour. The lock is changed the same day; nobody will scold you.'],
    null,
  ],
  [
    'Vaults',
    'Readings',
    'Which humidity is too high?',
    ['Above fifteen per cent for more than two hours. Write it down, then tell the vault office.'],
    'New humidity limits in every vault',
  ],
  [
    'Vaults',
    'Readings',
    'When are the daily readings taken?',
    ['At six in the evening on the station’s own clock, by whoever is on the rota.'],
    null,
  ],
  [
    'Seed loans',
    null,
    'How do I ask for a loan of seeds?',
    [
      'With the form on the records page. A curator answers within five working days.',
      'Say what you want to grow, where, and what you will give back.',
    ],
    'How seed loans work',
  ],
  [
    'Seed loans',
    null,
    'How many seeds may one loan have?',
    ['Fifty of a common species, ten of a rare one. More needs the word of two curators.'],
    'How seed loans work',
  ],
  [
    'On the road',
    'Vehicles',
    'Who may drive the station van?',
    ['Whoever has a licence and has been shown the van by the station’s driver. Bring the licence.'],
    null,
  ],
  [
    'On the road',
    'Vehicles',
    'What do I do when the van breaks down?',
    ['Put out the triangle, ring the number on the sun visor, then the station. Stay with the seeds.'],
    null,
  ],
  [
    'On the road',
    'Permits',
    'Do I need a permit to collect on common land?',
    ['Yes, always, and carry it with you. The office keeps the blank forms and knows the wardens.'],
    null,
  ],
  [
    'Being here',
    'Leave and absence',
    'How do I say that I am on leave?',
    ['Tell your curator. From that day you are on leave in the directory, and routine matter waits for you.'],
    null,
  ],
  [
    'Being here',
    'Leave and absence',
    'Whom do I tell when I am ill?',
    ['Your curator, before the morning round. A message is enough.'],
    null,
  ],
  [
    'Being here',
    'The buildings',
    'Where is the first aid box?',
    ['In every station beside the main door, and in every vehicle behind the driver’s seat.'],
    null,
  ],
];

/** Questions members asked: hours ago, who, what, how many answers were offered, the answer that helped or null. */
export const QUESTIONS: [number, string, string, number, string | null][] = [
  [200, 'keola', 'who can have a key', 2, 'Who may hold a vault key?'],
  [180, 'marli', 'van broken', 1, 'What do I do when the van breaks down?'],
  [150, 'wren', 'humidity limit', 1, 'Which humidity is too high?'],
  [120, 'sarita', 'permit for collecting', 1, 'Do I need a permit to collect on common land?'],
  [100, 'kailani', 'lost key', 2, 'I have lost my vault key. What now?'],
  [90, 'otieno', 'vault key list', 2, 'Who may hold a vault key?'],
  [30, 'keola', 'Can my sister visit the station on a Sunday?', 0, null],
  [6, 'marli', 'Is there money for new tyres before winter?', 0, null],
];
