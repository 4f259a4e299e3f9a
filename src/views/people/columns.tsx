import type { ColumnDef, RowData } from '@tanstack/react-table';
import { accessWords, type Access } from '../../core/access/letter.ts';
import type { Person } from '../../core/people/person.ts';
import type { PeopleOrder } from '../../core/people/together.ts';
import { dayWords, zoneWords } from '../../core/timing/words.ts';

/** Somebody as a row of the directory shows them. */
export interface Listed {
  person: Person;
  access: Access | undefined;
  attributes: Readonly<Record<string, string>>;
}

declare module '@tanstack/react-table' {
  interface TableMeta<TData extends RowData> {
    /** The zone of whoever reads, and the time. */
    zone: string;
    nowMs: number;
    /** Rows know whose they are. */
    of?: TData;
  }
  interface ColumnMeta<TData extends RowData, TValue> {
    /** How wide it is beside the others, as a track of a grid. */
    width?: string;
    /** The classes of its cells. */
    place?: string;
    of?: [TData, TValue];
  }
}

/** Which of the usual columns are there until somebody chooses otherwise. */
export const USUAL = ['name', 'station', 'occupation', 'in'] as const;

/** What the name's cell says besides: what is in columns of their own where there is room for them. */
export const beside = ({ person }: Listed): string =>
  [person.role === 'member' ? '' : person.role, person.occupation, person.stationName]
    .filter(Boolean)
    .join(', ');

const Name = ({ person }: { person: Person }) => {
  return (
    <>
      <a className="link-quiet font-semibold" href={`/person/${person.id}`} dir="auto">
        {person.name}
      </a>
      {person.role === 'member' ? null : <span className="text-quiet"> {person.role}</span>}
      {person.standing === 'active' ? null : (
        <span className={person.standing === 'left' ? 'text-error' : 'text-warning'}> {person.standing}</span>
      )}
      {person.guestUntil === null ? null : (
        <span className="text-warning"> guest until {dayWords(person.guestUntil)}</span>
      )}
      <span className="block truncate text-sm text-quiet">
        {person.mail ?? 'no mail address: reached by inbox only'}
      </span>
    </>
  );
};

const GettingIn = ({ listed, zone, nowMs }: { listed: Listed; zone: string; nowMs: number }) => {
  const { access, person } = listed;
  const words = access && person.standing !== 'left' ? accessWords(access, zone, nowMs) : '';
  const failed = access?.state === 'invited' && access.failed !== null;
  return <span className={`text-sm ${failed ? 'text-error' : 'text-warning'}`}>{words}</span>;
};

const of = (column: ColumnDef<Listed>): ColumnDef<Listed> => column;

/**
 * The columns of the directory: what everybody has, and the organisation's own attributes.
 *
 * @param attributes the names of the attributes
 * @param stations whether there are stations to speak of
 * @param access whether whoever looks sees where people stand with getting in
 */
export function columnsOf(
  attributes: readonly string[],
  stations: boolean,
  access: boolean,
): ColumnDef<Listed>[] {
  return [
    {
      accessorFn: ({ person }) => person.name,
      id: 'name',
      header: 'Name',
      enableHiding: false,
      meta: { width: 'minmax(13rem, 2fr)' },
      cell: ({ row }) => <Name person={row.original.person} />,
    },
    ...(stations
      ? [
          of({
            accessorFn: ({ person }) => person.stationName,
            id: 'station',
            header: 'Station',
            cell: ({ row }) => <span dir="auto">{row.original.person.stationName}</span>,
          }),
        ]
      : []),
    {
      accessorFn: ({ person }) => person.occupation,
      id: 'occupation',
      header: 'Occupation',
      cell: ({ row }) => <span dir="auto">{row.original.person.occupation}</span>,
    },
    {
      id: 'zone',
      header: 'Reads by',
      cell: ({ row }) => zoneWords(row.original.person.zone),
    },
    {
      accessorFn: ({ person }) => person.joinedOn,
      id: 'joined',
      header: 'Joined',
      cell: ({ row }) => dayWords(row.original.person.joinedOn),
    },
    ...(access
      ? [
          of({
            id: 'in',
            header: 'Getting in',
            cell: ({ row, table }) => (
              <GettingIn
                listed={row.original}
                zone={table.options.meta?.zone ?? 'UTC'}
                nowMs={table.options.meta?.nowMs ?? 0}
              />
            ),
          }),
        ]
      : []),
    ...attributes.map((name) =>
      of({
        id: `attribute:${name}`,
        header: name,
        cell: ({ row }) => <span dir="auto">{row.original.attributes[name]}</span>,
      }),
    ),
  ];
}

/** The orders of the server by the columns they are of. */
export const ORDER_OF: Partial<Record<string, PeopleOrder>> = {
  name: 'name',
  station: 'station',
  occupation: 'occupation',
  joined: 'joined',
};
