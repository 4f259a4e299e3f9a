import { providerSchema } from '../core/access/provider.ts';
import { rows, type Database } from '../server/database/connection.ts';
import { seal } from '../server/sealing.ts';
import { changeProvider, insertProvider } from '../server/sign-on/store.ts';

/** A made-up secret of the demo, known to its stand-in. */
export const DEMO_SIGN_IN_SECRET = 'thistledown-house-sign-in';

const NAME = 'Thistledown House';

/** Tells the demo where the house's own sign-in answers this time. */
export async function placeProvider(db: Database, origin: string, sealWith: string): Promise<void> {
  const provider = providerSchema.parse({
    name: NAME,
    issuer: origin,
    clientId: 'clear-bell',
    byMail: true,
    byIdentity: null,
  });
  const sealed = seal(sealWith, DEMO_SIGN_IN_SECRET);
  const [there] = await rows<{ id: number; isOn: number }>(
    db,
    'SELECT id, is_on AS isOn FROM providers WHERE name = ?',
    [NAME],
  );
  if (there) await changeProvider(db, there.id, { provider, on: there.isOn === 1, sealed });
  else await insertProvider(db, provider, sealed);
}
