import { count, people } from '../words.ts';

/** What automations did while nobody was at the desk. Instants are milliseconds since 1970. */
export interface AutomationsLately {
  sinceMs: number;
  /** Runs that had something to say. */
  ran: number;
  /** People, each once. */
  told: number;
  notFound: number;
  failed: number;
  /** Those that have paused themselves and wait for somebody. */
  paused: number;
}

/** "4 runs of automations, 61 people told, 2 not found, 1 failed": what there is none of is not told. */
export const latelyWords = ({ ran, told, notFound, failed, paused }: AutomationsLately): string =>
  [
    count(ran, 'run of an automation', 'runs of automations'),
    `${people(told)} told`,
    ...(notFound > 0 ? [`${notFound.toLocaleString('en-GB')} not found`] : []),
    ...(failed > 0 ? [`${failed.toLocaleString('en-GB')} failed`] : []),
    ...(paused > 0 ? [`${paused.toLocaleString('en-GB')} paused`] : []),
  ].join(', ');
