/** What a deed can be about. */
export const SUBJECTS = [
  'person',
  'group',
  'station',
  'board',
  'post',
  'reply',
  'announcement',
  'send',
  'occurrence',
  'series',
  'audience',
  'shelf',
  'ribbon',
  'import',
  'automation',
  'record sheet',
  'source',
  'organisation',
] as const;
export type Subject = (typeof SUBJECTS)[number];

/** What the audit trail calls each kind of subject when one chooses by it. */
export const SUBJECT_WORDS: Record<Subject, string> = {
  person: 'people',
  group: 'groups',
  station: 'stations',
  board: 'boards',
  post: 'posts',
  reply: 'replies',
  announcement: 'drafts',
  send: 'sends as planned',
  occurrence: 'what went out',
  series: 'series',
  audience: 'kept audiences',
  shelf: 'the shelf',
  ribbon: 'ribbons',
  import: 'imports',
  automation: 'automations',
  'record sheet': 'record sheets',
  source: 'sources',
  organisation: 'the organisation',
};

/** What was done, as it follows a name: "added", with the name of what it was done to after it where there is one. */
const WORDS: Record<string, string> = {
  'person add': 'added',
  'person change person': 'changed',
  'person leave': 'marked as left',
  'person return': 'marked as back',
  'person link contact': 'linked a contact to',
  'person withdraw invitation': 'withdrew the invitation of',
  'person take up invitation': 'came in by invitation:',
  'person reset password': 'set a new password by mail:',
  'person sign in by mail': 'signed in by mail:',
  'person change password': 'changed the password of',
  'person choose quiet hours': 'chose the quiet hours of',
  'person choose notices': 'chose the notices of',
  'person stop notices by mail': 'stopped notices by mail for',
  'person connect device': 'connected a device of',
  'person make calendar feed': 'made the calendar feed of',
  'person stop mail': 'stopped mail for',
  'person resume mail': 'resumed mail for',
  'person change reach': 'changed whom they may write to:',
  'person end session': 'ended a session of',
  'group make group': 'made the group',
  'group rename group': 'renamed the group',
  'group change rule': 'changed the rule of',
  'group freeze group': 'kept who was in it, by hand from now on:',
  'group give rule': 'gave a rule to',
  'group add to group': 'put people into',
  'group take out of group': 'took somebody out of',
  'group delete group': 'deleted a group',
  'group choose owner': 'chose who looks after',
  'group ask for clearance': 'asked for clearance of what goes to',
  'group ask for no clearance': 'asked for no clearance of what goes to',
  'station make station': 'made the station',
  'station change station': 'changed the station',
  'station delete station': 'deleted a station',
  'board make': 'made the board',
  'board make for a session': 'made a board for a session:',
  'board settle': 'changed the settings of',
  'board archive': 'archived',
  'board restore': 'restored',
  'board appoint moderator': 'appointed a moderator of',
  'board dismiss moderator': 'dismissed a moderator of',
  'board arrange pins': 'arranged what is pinned on',
  'board place links': 'placed the links of',
  'announcement save as template': 'kept as a template:',
  'announcement discard': 'discarded the draft',
  'announcement comment': 'commented on',
  'announcement hand on for review': 'handed on for review:',
  'announcement clear': 'cleared',
  'announcement return to author': 'returned to its author:',
  'announcement change after clearance': 'changed after it was cleared:',
  'announcement change during review': 'changed while it was looked at:',
  'announcement gather thanks': 'gathered the thanks of a month:',
  'announcement send test': 'sent themselves a test copy of',
  'send send': 'confirmed the sending of',
  'send change send': 'changed the plan of',
  'occurrence send': 'confirmed the sending of',
  'occurrence change send': 'changed the plan of',
  'occurrence chase': 'chased those who have not answered',
  'occurrence close': 'closed',
  'occurrence add option': 'added an option to',
  'occurrence correct': 'corrected',
  'occurrence move': 'moved',
  'occurrence retry': 'tried again what had failed of',
  'occurrence take back': 'took back',
  'occurrence take back the rest': 'took back the rest of',
  'occurrence open for change': 'opened for a change:',
  'occurrence open for correction': 'opened for a correction:',
  'import import people': 'brought in the list',
  'import take back import': 'took back the list',
  'person add identity': 'noted what somebody is called elsewhere:',
  'person take identity out': 'took out what somebody is called elsewhere:',
  'automation make': 'made the automation',
  'automation copy': 'copied an automation as',
  'automation publish': 'put to work',
  'automation switch on': 'switched on',
  'automation switch off': 'switched off',
  'automation take over': 'took over',
  'automation delete': 'deleted an automation',
  'automation try again': 'had a run tried again of',
  'automation run now': 'ran by hand',
  'automation send test': 'sent themselves a trial of',
  'record sheet make': 'made the record sheet',
  'record sheet change': 'changed the columns or the form of',
  'record sheet delete': 'deleted a record sheet',
  'record sheet bring in records': 'brought records into',
  'record sheet delete record': 'deleted a record of',
  'source make': 'added the source',
  'source change': 'changed the source',
  'organisation set up': 'set the organisation up',
  'organisation change organisation': 'changed the name or the clock of the organisation',
  'organisation set quiet hours': 'set the quiet hours of everybody',
  'organisation add holiday': 'added a holiday',
  'organisation remove holiday': 'removed a holiday',
  'organisation invite': 'invited people',
  'organisation arrange boards': 'arranged the boards',
};

/** A deed in words, after who did it: "changed the rule of Vault keyholders". */
export function deedWords(deed: { action: string; subject: string; name: string | null }): string {
  const words = WORDS[`${deed.subject} ${deed.action}`] ?? deed.action;
  return deed.name === null || deed.name === '' ? words.replace(/:$/, '') : `${words} ${deed.name}`;
}

/** A line of the audit trail. The instant in milliseconds since 1970. */
export interface AuditLine {
  id: number;
  atMs: number;
  /** Null where Clear Bell did it by itself. */
  actor: { id: number; name: string } | null;
  words: string;
  subject: string;
  subjectId: number | null;
}

export interface AuditPage {
  lines: AuditLine[];
  /** The id before which the next page begins, or null at the end. */
  next: number | null;
}
