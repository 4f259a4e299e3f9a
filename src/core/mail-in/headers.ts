/** The headers of a mail that decide what becomes of it: names in small letters, values unfolded, the topmost first. */
export type MailHeaders = readonly { name: string; value: string }[];

export const headerOf = (headers: MailHeaders, name: string): string | undefined =>
  headers.find((header) => header.name === name)?.value;
