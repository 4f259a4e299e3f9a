import type { Automation } from './automation.ts';

export const TAKEN_FORMAT = 'clear-bell automation';
export const TAKEN_VERSION = 1;

/**
 * An automation as it is taken out and brought in elsewhere: JSON (RFC 8259) with the version of its shape. What it names by
 * number (groups, boards, sheets, senders, sources) is named so in the installation it comes from.
 */
export const takeOut = (automation: Automation): string =>
  `${JSON.stringify({ format: TAKEN_FORMAT, version: TAKEN_VERSION, automation }, null, 2)}\n`;
