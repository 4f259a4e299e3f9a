import type { SignOnSettings } from '../sign-on/client.ts';
import { appContext } from './appContext.ts';

/** What asking a provider depends on, as the operator has set it. */
export function signOnSettings(): SignOnSettings {
  const { settings } = appContext();
  return {
    secret: settings.CLEAR_BELL_SECRET,
    url: settings.CLEAR_BELL_URL,
    inside: settings.LOOKUP_ORIGINS,
  };
}
