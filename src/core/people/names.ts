/**
 * How somebody is greeted where they have not said: by the first word of their name. Of a name written with the family name first,
 * that is no first name; what to greet by is then noted with the person.
 */
export const greetingOf = ({ name, greeting }: { name: string; greeting: string }): string =>
  greeting || (name.trim().split(/\s+/)[0] ?? '');

/** The text by which somebody is put in order in lists. */
export const sortedAs = ({ name, sortName }: { name: string; sortName: string }): string => sortName || name;

/** A name to put in order by, of its parts: the family name first. Empty where a part is missing. */
export const sortNameOf = (given: string, family: string): string =>
  given === '' || family === '' ? '' : `${family}, ${given}`;
