/** What an outside place can be told of an announcement, by the name a template uses. */
export interface PlaceFields {
  /** Sets the announcement apart, for as long as it exists. */
  id: number;
  /** What happened to it. */
  change: 'sent' | 'corrected' | 'withdrawn' | 'reinstated' | 'trial';
  title: string;
  /** The whole text without marks, as CommonMark, and as HTML. */
  text: string;
  markdown: string;
  html: string;
  sections: { heading: string; accent: string; text: string; markdown: string }[];
  importance: string;
  /** Whom it comes from, as its readers see it. */
  from: string;
  organisation: string;
  /** The page on which its readers open it. */
  url: string;
  button: { label: string; url: string } | null;
  /** Instants as ISO 8601 in UTC. */
  event: { starts: string; ends: string; zone: string; place: string; link: string } | null;
  /** When it was due. */
  at: string;
  /** What was corrected, or why it was withdrawn. */
  note: string;
}

/** Each name of a template's fields with what it stands for. */
export const PLACE_FIELDS: Record<keyof PlaceFields, string> = {
  id: 'its number',
  change: 'sent, corrected, withdrawn, reinstated or trial',
  title: 'the title',
  text: 'the text without marks',
  markdown: 'the text as CommonMark',
  html: 'the text as HTML',
  sections: 'a list: heading, accent, text, markdown of each',
  importance: 'routine, important or urgent',
  from: 'whom it comes from',
  organisation: 'the name of the organisation',
  url: 'the page where its readers open it',
  button: 'its label and url, or null',
  event: 'starts, ends, zone, place and link, or null',
  at: 'when it was due (ISO 8601)',
  note: 'what was corrected, or why it was withdrawn',
};

export const PLAIN_TEMPLATE = `{
  "title": "{{ title }}",
  "text": "{{ text }}",
  "url": "{{ url }}"
}`;

/** An announcement of nobody, by which templates are tried. */
export const SAMPLE: PlaceFields = {
  id: 1,
  change: 'trial',
  title: 'A trial',
  text: 'A trial from Clear Bell.',
  markdown: 'A trial from **Clear Bell**.',
  html: '<p>A trial from <strong>Clear Bell</strong>.</p>',
  sections: [
    {
      heading: '',
      accent: 'none',
      text: 'A trial from Clear Bell.',
      markdown: 'A trial from **Clear Bell**.',
    },
  ],
  importance: 'routine',
  from: 'The desk',
  organisation: 'The organisation',
  url: 'https://example.org/for-me/1',
  button: { label: 'Open it', url: 'https://example.org/' },
  event: {
    starts: '2027-03-01T09:00:00.000Z',
    ends: '2027-03-01T10:00:00.000Z',
    zone: 'Europe/London',
    place: 'Room 1',
    link: '',
  },
  at: '2027-03-01T08:00:00.000Z',
  note: '',
};

/** What a trial says: nothing of anybody. */
export const sampleFields = (organisation: string, url: string, atMs: number): PlaceFields => ({
  ...SAMPLE,
  organisation,
  url,
  at: new Date(atMs).toISOString(),
});
