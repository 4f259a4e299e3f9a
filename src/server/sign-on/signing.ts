import { foldHandle } from '../../core/directory/identity.ts';
import { normalMail } from '../../core/people/mailAddress.ts';
import { personByMail } from '../access/store.ts';
import { hashToken, newToken, openSession } from '../accounts/opening.ts';
import { record } from '../audit/store.ts';
import { isDuplicate, transact, type Database } from '../database/connection.ts';
import { personByIdentity } from '../identities/store.ts';
import { hasNoPage, personById } from '../people/store.ts';
import { notFound, Problem } from '../problem.ts';
import { endStep, insertStep, stepOf } from '../second-factor/store.ts';
import { seal } from '../sealing.ts';
import {
  askToSignIn,
  readSignedIn,
  signOutAddress,
  type Asked,
  type Claimed,
  type SignOnSettings,
} from './client.ts';
import {
  insertSubject,
  noteSignedInAt,
  personBySubject,
  providerById,
  type ProviderRow,
  type SignedInAt,
} from './store.ts';

async function providerOn(db: Database, id: number): Promise<ProviderRow> {
  const provider = await providerById(db, id);
  if (!provider?.on) throw notFound('way to sign in');
  return provider;
}

/** Begins to sign in with a provider: where to go, and the step's token for the cookie. */
export async function beginSignOn(
  db: Database,
  settings: SignOnSettings,
  providerId: number,
  next: string,
): Promise<{ to: string; token: string }> {
  const provider = await providerOn(db, providerId);
  const { to, asked } = await askToSignIn(provider, settings);
  const token = newToken();
  await insertStep(db, hashToken(token), {
    kind: 'provider',
    personId: null,
    data: { provider: providerId, next, ...asked },
  });
  return { to, token };
}

export { signedInAt } from './store.ts';

const refused = (detail: string): Problem => new Problem(403, detail);

/** Whom a first sign-in is of: by a mail address the provider says is verified, or by an identity; a 403 problem otherwise. */
async function matched(db: Database, provider: ProviderRow, claimed: Claimed): Promise<number> {
  const { byMail, byIdentity } = provider;
  if (byIdentity) {
    const value = { sub: claimed.subject, preferred_username: claimed.username, email: claimed.mail }[
      byIdentity.claim
    ];
    const found = value === null ? null : await personByIdentity(db, byIdentity.system, foldHandle(value));
    if (found !== null && !(await hasNoPage(db, found))) return found;
  }
  if (byMail && claimed.mail !== null && claimed.mailVerified) {
    const found = await personByMail(db, normalMail(claimed.mail));
    if (found !== undefined) return found;
  }
  if (byMail && claimed.mail !== null && !claimed.mailVerified)
    throw refused(
      `${provider.name} says that ${claimed.mail} is not verified, so nobody is signed in by it. Verify it there, or ask a coordinator.`,
    );
  throw refused(
    `${claimed.mail ?? claimed.name ?? 'Your account'} at ${provider.name} is nobody here yet. Ask a coordinator to add you${claimed.mail === null ? '' : ` with this address`}.`,
  );
}

/** Whom an account at a provider signs in, noted from the first time on: an address that changes there changes nothing here. */
export async function personOfClaims(db: Database, provider: ProviderRow, claimed: Claimed): Promise<number> {
  const known = await personBySubject(db, provider.id, claimed.subject);
  const personId = known ?? (await matched(db, provider, claimed));
  const person = await personById(db, personId);
  if (!person || person.standing === 'left')
    throw refused(`Whoever ${provider.name} signs in here has left. Ask a coordinator if that is a mistake.`);
  if (known !== undefined) return personId;
  try {
    await insertSubject(db, provider.id, claimed.subject, personId);
  } catch (error) {
    if (!isDuplicate(error)) throw error;
    // The same one in two tabs is one.
    if ((await personBySubject(db, provider.id, claimed.subject, true)) === personId) return personId;
    throw refused(
      `Another account at ${provider.name} signs in as ${person.name} already. A coordinator can take that away on their page under People.`,
    );
  }
  await record(db, {
    actorId: personId,
    action: 'connect sign-on',
    subject: 'person',
    subjectId: personId,
    detail: { provider: provider.name },
  });
  return personId;
}

/**
 * Signs in whoever came back from a provider. No second step is asked for: that is the provider's.
 *
 * @throws 403 in words where it is nobody here, 409 where it was not begun in this browser, or long ago
 */
export async function finishSignOn(
  db: Database,
  settings: SignOnSettings,
  given: { token: string; query: string; agent: string },
): Promise<{ session: string; next: string }> {
  const hash = hashToken(given.token);
  const step = await stepOf(db, hash, 'provider');
  if (!step || !(await endStep(db, hash)))
    throw new Problem(
      409,
      'Signing in was not begun in this browser, or longer than ten minutes ago. Begin again.',
    );
  const { provider: id, next, ...asked } = step.data as unknown as Asked & { provider: number; next: string };
  const provider = await providerOn(db, id);
  const claimed = await readSignedIn(provider, settings, given.query, asked);
  const sealed = claimed.idToken === null ? null : seal(settings.secret, claimed.idToken);
  return transact(db, async (trx) => {
    const personId = await personOfClaims(trx, provider, claimed);
    const session = await openSession(trx, personId, given.agent);
    await noteSignedInAt(trx, hashToken(session), id, sealed && sealed.length <= 6000 ? sealed : null);
    return { session, next };
  });
}

/**
 * Where to go to sign out at a provider too; null where it is gone, or cannot be asked.
 *
 * @param at where a session was signed in, looked up before it was ended: a provider that is down holds nobody in here
 */
export async function whereToSignOut(
  db: Database,
  settings: SignOnSettings,
  at: SignedInAt | undefined,
): Promise<string | null> {
  const provider = at && (await providerById(db, at.providerId));
  if (!at || !provider) return null;
  try {
    return await signOutAddress(provider, settings, at.sealedToken);
  } catch (error) {
    // One is signed out here whatever the provider does.
    if (error instanceof Problem) return null;
    throw error;
  }
}
