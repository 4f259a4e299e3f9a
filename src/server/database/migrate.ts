import type { Knex } from 'knex';
import type { Database } from './connection.ts';
import * as people from './migrations/0001_people.ts';
import * as signIn from './migrations/0002_sign_in.ts';
import * as groupsAndBoards from './migrations/0003_groups_and_boards.ts';
import * as announcements from './migrations/0004_announcements.ts';
import * as sends from './migrations/0005_sends.ts';
import * as asks from './migrations/0006_asks.ts';
import * as outboxAndAudit from './migrations/0007_outbox_and_audit.ts';
import * as engines from './migrations/0008_engines.ts';
import * as reach from './migrations/0009_reach.ts';
import * as sections from './migrations/0010_sections.ts';
import * as occurrences from './migrations/0011_occurrences.ts';
import * as boardRights from './migrations/0012_board_rights.ts';
import * as talking from './migrations/0013_talking.ts';
import * as notices from './migrations/0014_notices.ts';
import * as thanksAndShelf from './migrations/0015_thanks_and_shelf.ts';
import * as search from './migrations/0016_search.ts';
import * as answers from './migrations/0017_answers.ts';
import * as safety from './migrations/0018_safety.ts';
import * as access from './migrations/0019_access.ts';
import * as events from './migrations/0020_events.ts';
import * as imports from './migrations/0021_imports.ts';
import * as sessionsAndFirstSteps from './migrations/0022_sessions_and_first_steps.ts';
import * as automations from './migrations/0023_automations.ts';
import * as dates from './migrations/0024_dates.ts';
import * as gateways from './migrations/0025_gateways.ts';
import * as reading from './migrations/0026_reading.ts';
import * as withdrawing from './migrations/0027_withdrawing.ts';
import * as welcome from './migrations/0028_welcome.ts';
import * as bundling from './migrations/0029_bundling.ts';
import * as contactsReading from './migrations/0034_contacts_reading.ts';
import * as secondFactor from './migrations/0035_second_factor.ts';
import * as signOn from './migrations/0036_sign_on.ts';
import * as scim from './migrations/0037_scim.ts';
import * as leaveAndErasure from './migrations/0038_leave_and_erasure.ts';
import * as joining from './migrations/0039_joining.ts';
import * as calendar from './migrations/0040_calendar.ts';
import * as signUpConfirmations from './migrations/0041_sign_up_confirmations.ts';
import * as names from './migrations/0042_names.ts';
import * as groupArchive from './migrations/0043_group_archive.ts';
import * as addressesAndMerging from './migrations/0044_addresses_and_merging.ts';
import * as attributeKinds from './migrations/0045_attribute_kinds.ts';
import * as guests from './migrations/0046_guests.ts';
import * as callingAndStations from './migrations/0047_calling_and_stations.ts';
import * as ordersOfPeople from './migrations/0048_orders_of_people.ts';
import * as letters from './migrations/0049_letters.ts';
import * as groupOwners from './migrations/0050_group_owners.ts';
import * as apiTokens from './migrations/0051_api_tokens.ts';
import * as newsKey from './migrations/0052_news_key.ts';
import * as keptAnswers from './migrations/0053_kept_answers.ts';
import * as mailIn from './migrations/0054_mail_in.ts';
import * as followedCalendars from './migrations/0055_followed_calendars.ts';
import * as retention from './migrations/0056_retention.ts';
import * as senderPictures from './migrations/0057_sender_pictures.ts';
import * as outsidePlaces from './migrations/0058_outside_places.ts';
import * as followedSheets from './migrations/0059_followed_sheets.ts';
import * as takeouts from './migrations/0060_takeouts.ts';
import * as processes from './migrations/0061_processes.ts';
import * as sheetViews from './migrations/0062_sheet_views.ts';
import * as calculatedColumns from './migrations/0063_calculated_columns.ts';
import * as automationPeople from './migrations/0064_automation_people.ts';
import * as patterns from './migrations/0065_patterns.ts';
import * as lastColumn from './migrations/0066_last_column.ts';
import * as changesByTime from './migrations/0067_changes_by_time.ts';
import * as withoutEngines from './migrations/0068_without_engines.ts';
import * as settledCountsColumn from './migrations/0069_settled_counts.ts';
import * as damagedNodes from './migrations/0070_damaged_nodes.ts';
import * as wordStems from './migrations/0071_word_stems.ts';
import * as chaseKeys from './migrations/0072_chase_keys.ts';
import * as chaseSends from './migrations/0073_chase_sends.ts';
import * as askingAgain from './migrations/0033_asking_again.ts';
import * as findingMore from './migrations/0032_finding_more.ts';
import * as videos from './migrations/0031_videos.ts';
import * as sharingDrafts from './migrations/0030_sharing_drafts.ts';

/** Numbered, small, and never edited once released. */
const MIGRATIONS: Record<string, Knex.Migration> = {
  '0001_people': people,
  '0002_sign_in': signIn,
  '0003_groups_and_boards': groupsAndBoards,
  '0004_announcements': announcements,
  '0005_sends': sends,
  '0006_asks': asks,
  '0007_outbox_and_audit': outboxAndAudit,
  '0008_engines': engines,
  '0009_reach': reach,
  '0010_sections': sections,
  '0011_occurrences': occurrences,
  '0012_board_rights': boardRights,
  '0013_talking': talking,
  '0014_notices': notices,
  '0015_thanks_and_shelf': thanksAndShelf,
  '0016_search': search,
  '0017_answers': answers,
  '0018_safety': safety,
  '0019_access': access,
  '0020_events': events,
  '0021_imports': imports,
  '0022_sessions_and_first_steps': sessionsAndFirstSteps,
  '0023_automations': automations,
  '0024_dates': dates,
  '0025_gateways': gateways,
  '0026_reading': reading,
  '0027_withdrawing': withdrawing,
  '0028_welcome': welcome,
  '0029_bundling': bundling,
  '0030_sharing_drafts': sharingDrafts,
  '0031_videos': videos,
  '0032_finding_more': findingMore,
  '0033_asking_again': askingAgain,
  '0034_contacts_reading': contactsReading,
  '0035_second_factor': secondFactor,
  '0036_sign_on': signOn,
  '0037_scim': scim,
  '0038_leave_and_erasure': leaveAndErasure,
  '0039_joining': joining,
  '0040_calendar': calendar,
  '0041_sign_up_confirmations': signUpConfirmations,
  '0042_names': names,
  '0043_group_archive': groupArchive,
  '0044_addresses_and_merging': addressesAndMerging,
  '0045_attribute_kinds': attributeKinds,
  '0046_guests': guests,
  '0047_calling_and_stations': callingAndStations,
  '0048_orders_of_people': ordersOfPeople,
  '0049_letters': letters,
  '0050_group_owners': groupOwners,
  '0051_api_tokens': apiTokens,
  '0052_news_key': newsKey,
  '0053_kept_answers': keptAnswers,
  '0054_mail_in': mailIn,
  '0055_followed_calendars': followedCalendars,
  '0056_retention': retention,
  '0057_sender_pictures': senderPictures,
  '0058_outside_places': outsidePlaces,
  '0059_followed_sheets': followedSheets,
  '0060_takeouts': takeouts,
  '0061_processes': processes,
  '0062_sheet_views': sheetViews,
  '0063_calculated_columns': calculatedColumns,
  '0064_automation_people': automationPeople,
  '0065_patterns': patterns,
  '0066_last_column': lastColumn,
  '0067_changes_by_time': changesByTime,
  '0068_without_engines': withoutEngines,
  '0069_settled_counts': settledCountsColumn,
  '0070_damaged_nodes': damagedNodes,
  '0071_word_stems': wordStems,
  '0072_chase_keys': chaseKeys,
  '0073_chase_sends': chaseSends,
};

/** How many migrations this version knows: two processes that know as many are of one version of the schema. */
export const MIGRATIONS_KNOWN = Object.keys(MIGRATIONS).length;

/** Brings the schema up to date; says which migrations ran. */
export async function migrate(db: Database): Promise<string[]> {
  const [, ran] = (await db.migrate.latest({
    migrationSource: {
      getMigrations: () => Promise.resolve(Object.keys(MIGRATIONS)),
      getMigrationName: (name: string) => name,
      getMigration: (name: string) => {
        const migration = MIGRATIONS[name];
        return migration ? Promise.resolve(migration) : Promise.reject(new Error(`No migration ${name}`));
      },
    },
  })) as [number, string[]];
  return ran;
}
