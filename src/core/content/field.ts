import { greetingOf } from '../people/names.ts';
import { dateWords, momentWords } from '../timing/words.ts';

/** What can be filled in for each reader. */
export const FIELDS = ['name', 'first name', 'station', 'occupation', 'date', 'event time'] as const;
export type FieldName = (typeof FIELDS)[number];

/**
 * What an automation fills in when it speaks: of the record, the person it is about, what was looked up, what came in, the run,
 * or whom it calls on.
 */
export type TemplateField = `${
  'record' | 'person' | 'session' | 'ask' | 'found' | 'call' | 'run' | 'mention'}.${string}`;

/** Whether a field is filled in for each reader. */
export const isReaderField = (name: string): name is FieldName => FIELDS.some((each) => each === name);

/** The reader a text is filled in for. Instants are milliseconds since 1970; times are told in the reader's zone. */
export interface Reader {
  name: string;
  /** How to greet them; empty is by the first word of their name. */
  greeting: string;
  station: string | null;
  occupation: string;
  zone: string;
  /** When it reaches them. */
  atMs: number;
  /** When the event begins that it tells of, where it tells of one. */
  eventMs: number | null;
}

/** What a field says to a reader; nothing where that is not known of them. */
export function fieldValue(name: FieldName, reader: Reader): string {
  switch (name) {
    case 'name':
      return reader.name;
    case 'first name':
      return greetingOf(reader);
    case 'station':
      return reader.station ?? '';
    case 'occupation':
      return reader.occupation;
    case 'date':
      return dateWords(reader.atMs, reader.zone);
    case 'event time':
      return reader.eventMs === null ? '' : momentWords(reader.eventMs, reader.zone, reader.atMs);
  }
}
