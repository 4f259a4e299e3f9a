import { Problem } from '../problem.ts';
import type { SecondSettings } from '../second-factor/own.ts';
import { passkeySite, type PasskeySite } from '../second-factor/passkeys.ts';
import { appContext } from './appContext.ts';

/** What changing a second step depends on, as the operator has set it. */
export function secondSettings(): SecondSettings {
  const { settings } = appContext();
  return {
    secret: settings.CLEAR_BELL_SECRET,
    site: passkeySite(settings.CLEAR_BELL_URL),
    demanded: settings.SECOND_STEP_FOR,
  };
}

/** For whom passkeys are; a 409 problem where there can be none. */
export function siteForPasskeys(): PasskeySite {
  const { site } = secondSettings();
  if (!site) throw new Problem(409, 'Passkeys cannot be used at this address. Take another way to sign in.');
  return site;
}
