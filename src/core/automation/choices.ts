import type { AudienceChoices } from '../audience/choices.ts';
import type { PlaceChoice } from '../gateways/hookOut.ts';
import type { SheetColumn } from '../sheets/sheet.ts';
import type { NamedValue, Source } from './source.ts';

/** What an automation can be built from, as one person may use it. */
export interface AutomationChoices {
  audience: AudienceChoices;
  boards: { id: number; name: string; automations: boolean }[];
  outside: PlaceChoice[];
  sheets: { id: number; name: string; columns: SheetColumn[]; form: boolean }[];
  /** Attributes of people that hold dates. */
  dates: string[];
  senders: { id: number; name: string }[];
  sources: (Pick<Source, 'name' | 'url' | 'fields'> & { id: number })[];
  /** The ways in, with the values that each brings. */
  hooks: { id: number; name: string; fields: NamedValue[] }[];
  /** Sessions with a date ahead that this person may know of. */
  sessions: { id: number; title: string; recurs: boolean }[];
  /** Whether it may listen to what others ask. */
  hearsAll: boolean;
  /** Systems in which people have identities. */
  systems: string[];
  zones: string[];
  /** The names of people that the automation names. */
  people: Record<string, string>;
}
