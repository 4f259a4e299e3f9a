/** What a column of a list can hold: a field of a person, or an attribute of the organisation's own by its name. */
export const IMPORT_FIELDS = [
  'name',
  'given',
  'family',
  'sortName',
  'greeting',
  'mail',
  'station',
  'occupation',
  'zone',
  'joinedOn',
] as const;
export type ImportField = (typeof IMPORT_FIELDS)[number];
export type Column = ImportField | `attribute:${string}` | 'nothing';

/** The fields as whoever matches columns reads them. */
export const FIELD_WORDS: Record<ImportField, string> = {
  name: 'whole name',
  given: 'given name',
  family: 'family name',
  sortName: 'name to sort by',
  greeting: 'how to greet them',
  mail: 'mail address',
  station: 'station',
  occupation: 'occupation',
  zone: 'time zone',
  joinedOn: 'joined on',
};

/** Headings in use for each field, in small Latin letters without signs. */
const HEADINGS: Record<ImportField, readonly string[]> = {
  name: ['name', 'fullname', 'wholename', 'displayname', 'person', 'employee', 'member', 'fn'],
  given: ['givenname', 'firstname', 'forename', 'vorname', 'prenom', 'nombre', 'given'],
  family: [
    'familyname',
    'lastname',
    'surname',
    'nachname',
    'nomdefamille',
    'apellido',
    'apellidos',
    'family',
  ],
  sortName: ['sortname', 'sortby', 'nametosortby', 'sortas', 'filedas'],
  greeting: ['greeting', 'howtogreetthem', 'nickname', 'knownas', 'calledname', 'preferredname'],
  mail: ['mail', 'email', 'mailaddress', 'emailaddress', 'address', 'workemail', 'emailwork', 'correo'],
  station: ['station', 'site', 'location', 'base', 'workplace', 'office', 'place', 'depot', 'branch'],
  occupation: ['occupation', 'job', 'jobtitle', 'title', 'position', 'function', 'profession', 'trade'],
  zone: ['zone', 'timezone', 'tz', 'clock', 'readsbytheclockof'],
  joinedOn: ['joinedon', 'joined', 'startdate', 'hiredate', 'since', 'entrydate', 'start', 'memberfrom'],
};

/** A heading as it is looked up: small Latin letters and figures only. */
export const plainHeading = (heading: string): string =>
  heading
    .normalize('NFKD')
    .toLowerCase()
    .replace(/[^a-z0-9]/g, '');

const MAIL_LIKE = /^[^\s@]+@[^\s@]+\.[^\s@]+$/;

/** Whether a first row names the columns: something is in it, and nothing that only a person's line holds. */
export const namesColumns = (row: readonly string[]): boolean =>
  row.some((cell) => cell.trim() !== '') &&
  !row.some((cell) => MAIL_LIKE.test(cell.trim()) || /^\d+([-./]\d+)*$/.test(cell.trim()));

/**
 * What each column most likely holds, by its heading; where there are no headings that are known, by what the first rows
 * hold. Each field is given once.
 */
export function guessColumns(headings: readonly string[], rows: readonly (readonly string[])[]): Column[] {
  const given = new Set<ImportField>();
  const take = (field: ImportField): Column => {
    given.add(field);
    return field;
  };
  const guessed = headings.map((heading): Column => {
    const plain = plainHeading(heading);
    const field = IMPORT_FIELDS.find((each) => !given.has(each) && HEADINGS[each].includes(plain));
    return field ? take(field) : 'nothing';
  });
  const most = (at: number, holds: (cell: string) => boolean): boolean => {
    const cells = rows.map((row) => (row[at] ?? '').trim()).filter((cell) => cell !== '');
    return cells.length > 0 && cells.filter(holds).length * 2 > cells.length;
  };
  return guessed.map((column, at) => {
    if (column !== 'nothing') return column;
    if (!given.has('mail') && most(at, (cell) => MAIL_LIKE.test(cell))) return take('mail');
    if (!given.has('zone') && most(at, (cell) => /^[A-Z][A-Za-z]+\/[A-Z][A-Za-z_/]+$/.test(cell)))
      return take('zone');
    if (
      !given.has('name') &&
      !given.has('given') &&
      !given.has('family') &&
      plainHeading(headings[at] ?? '') === '' &&
      most(at, (cell) => /^\p{L}[\p{L}\p{M}'’.-]*(\s+\p{L}[\p{L}\p{M}'’.-]*)+$/u.test(cell))
    )
      return take('name');
    return 'nothing';
  });
}

/** What is wrong with a choice of columns, in words; null where nothing is. */
export function columnsProblem(columns: readonly Column[]): string | null {
  const fields = columns.filter((column) => column !== 'nothing');
  // Attributes are the same whatever the size of their letters.
  const plain = fields.map((column) => column.toLowerCase());
  const twice = fields.find((_, at) => plain.indexOf(plain[at] ?? '') !== at);
  if (twice !== undefined)
    return `Two columns are said to hold the ${columnWords(twice)}. Choose one of them for it.`;
  if (!fields.includes('name') && !(fields.includes('given') && fields.includes('family')))
    return 'Say which column holds the whole name, or which hold the given and the family name.';
  return null;
}

/** A column in words. */
export const columnWords = (column: Column): string =>
  column === 'nothing'
    ? 'nothing that is used'
    : column.startsWith('attribute:')
      ? `“${column.slice('attribute:'.length)}”`
      : FIELD_WORDS[column as ImportField];
