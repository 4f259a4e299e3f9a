import type { Automation } from './automation.ts';

export const TAKEN_FORMAT = 'clear-bell automation';
export const TAKEN_VERSION = 1;

/**
 * An automation as it is taken out and brought in elsewhere: JSON (RFC 8259) with the version of its shape. What it names by
 * number (groups, boards, sheets, senders, sources) is named so in the installation it comes from. Pictures, videos and files of its
 * text stay there: they are no part of it.
 */
export function takeOut(automation: Automation): string {
  const sections = automation.content.sections.map((section) => ({
    ...section,
    image: null,
    gallery: [],
    video: null,
    files: [],
  }));
  const taken = { ...automation, content: { ...automation.content, sections } };
  return `${JSON.stringify({ format: TAKEN_FORMAT, version: TAKEN_VERSION, automation: taken }, null, 2)}\n`;
}
