import { z } from 'zod';
import { ROLES } from '../../core/audience/expression.ts';
import { SCOPE_NAMES } from '../../core/api/token.ts';
import { personById } from '../people/store.ts';
import { operationsAbout, type Operation } from './operation.ts';
import { AFTERWARDS } from './operations/afterwards.ts';
import { AUDIT } from './operations/audit.ts';
import { AUTOMATION_DRAFTS } from './operations/automationDrafts.ts';
import { AUTOMATION_TRIALS } from './operations/automationTrials.ts';
import { AUTOMATIONS } from './operations/automations.ts';
import { ANNOUNCEMENTS } from './operations/announcements.ts';
import { ASKS } from './operations/asks.ts';
import { ASK_RESULTS } from './operations/askResults.ts';
import { BOARD_DESK } from './operations/boardDesk.ts';
import { BOARD_SETTINGS } from './operations/boardSettings.ts';
import { BOARDS } from './operations/boards.ts';
import { FOLLOWED_CALENDARS } from './operations/followedCalendars.ts';
import { GATEWAYS } from './operations/gateways.ts';
import { CHECK_INS } from './operations/checkIns.ts';
import { CONVERSATION } from './operations/conversation.ts';
import { DESK } from './operations/desk.ts';
import { DRAFT_DESK } from './operations/draftDesk.ts';
import { DIRECTORY } from './operations/directory.ts';
import { GROUP_SETTINGS } from './operations/groupSettings.ts';
import { ORGANISATION_SETTINGS } from './operations/organisationSettings.ts';
import { SHELF } from './operations/shelf.ts';
import { UPLOADS } from './operations/uploads.ts';
import { GROUPS } from './operations/groups.ts';
import { IMPORTS } from './operations/imports.ts';
import { PEOPLE } from './operations/people.ts';
import { PEOPLE_DESK } from './operations/peopleDesk.ts';
import { PATTERNS } from './operations/patterns.ts';
import { RECORDS } from './operations/records.ts';
import { RECORD_SHEETS } from './operations/recordSheets.ts';
import { SHEET_VIEWS } from './operations/sheetViews.ts';
import { SENDS } from './operations/sends.ts';
import { SENDS_AHEAD } from './operations/sendsAhead.ts';
import { SERIES } from './operations/series.ts';
import { SESSION_DATES } from './operations/sessionDates.ts';
import { SESSIONS } from './operations/sessions.ts';
import { SETTINGS } from './operations/settings.ts';
import { TEXTS } from './operations/texts.ts';
import { TOKENS } from './operations/tokens.ts';
import { TRIALS } from './operations/trials.ts';
import { at, id, instant } from './shapes.ts';

const token = operationsAbout('Token');

/** All that the API can do, in the order it is described. */
export const OPERATIONS: readonly Operation[] = [
  token('GET /token', {
    id: 'readToken',
    summary: 'Whose token it is, and what it may do',
    answer: z.object({
      name: z.string(),
      scopes: z.array(z.enum(SCOPE_NAMES)),
      expiresAt: instant,
      owner: z.object({ id, name: z.string(), role: z.enum(ROLES), zone: z.string() }),
    }),
    run: async ({ db, actor, token: held, zone }) => ({
      body: {
        name: held.name,
        scopes: [...held.scopes],
        expiresAt: at(held.expiresMs),
        owner: {
          id: actor.id,
          name: (await personById(db, actor.id))?.name ?? '',
          role: actor.role,
          zone,
        },
      },
    }),
  }),
  ...TOKENS,
  ...ANNOUNCEMENTS,
  ...DRAFT_DESK,
  ...SENDS,
  ...SENDS_AHEAD,
  ...AFTERWARDS,
  ...TEXTS,
  ...SERIES,
  ...DESK,
  ...ASKS,
  ...ASK_RESULTS,
  ...CHECK_INS,
  ...BOARDS,
  ...CONVERSATION,
  ...UPLOADS,
  ...BOARD_SETTINGS,
  ...BOARD_DESK,
  ...GROUPS,
  ...GROUP_SETTINGS,
  ...PEOPLE,
  ...DIRECTORY,
  ...PEOPLE_DESK,
  ...IMPORTS,
  ...SHELF,
  ...SESSIONS,
  ...SESSION_DATES,
  ...FOLLOWED_CALENDARS,
  ...RECORDS,
  ...RECORD_SHEETS,
  ...SHEET_VIEWS,
  ...PATTERNS,
  ...AUTOMATIONS,
  ...AUTOMATION_DRAFTS,
  ...AUTOMATION_TRIALS,
  ...TRIALS,
  ...GATEWAYS,
  ...SETTINGS,
  ...ORGANISATION_SETTINGS,
  ...AUDIT,
];
