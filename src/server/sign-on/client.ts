import * as oidc from 'openid-client';
import QuickLRU from 'quick-lru';
import { Problem } from '../problem.ts';
import { OutsideError, requestOutside } from '../outside/request.ts';
import { unseal } from '../sealing.ts';
import type { ProviderRow } from './store.ts';

/** What asking a provider depends on. */
export interface SignOnSettings {
  /** The installation's secret: unseals what is kept. */
  secret: string;
  /** The application's own address, to which the provider sends people back. */
  url: string;
  /** Origins on the internal network that may be asked, and without https, such as `http://10.0.0.5:8080`. */
  inside: readonly string[];
}

const TIMEOUT_MS = 10_000;
const MOST_BYTES = 1_000_000;
/** How far the provider's clock may differ from ours. */
const TOLERANCE_S = 120;
const KEPT_MS = 10 * 60_000;

/** Asks only what may be asked, and never for long. */
const outsideFetch =
  (inside: readonly string[]): oidc.CustomFetch =>
  async (url, { method, headers, body }) => {
    const sent = body instanceof URLSearchParams || typeof body === 'string' ? body.toString() : undefined;
    const answer = await requestOutside(url, {
      method: method === 'POST' ? 'POST' : 'GET',
      headers,
      ...(sent === undefined ? {} : { body: sent }),
      inside,
      timeoutMs: TIMEOUT_MS,
      most: MOST_BYTES,
    });
    const given = new Headers();
    for (const [name, value] of Object.entries(answer.headers))
      for (const each of [value].flat()) if (each !== undefined) given.append(name, each);
    return new Response(answer.status === 204 || answer.status === 304 ? null : new Uint8Array(answer.body), {
      status: answer.status,
      headers: given,
    });
  };

const known = new QuickLRU<string, oidc.Configuration>({ maxSize: 50, maxAge: KEPT_MS });

/** Why a provider could not be asked, in words for whoever wants to sign in. */
function unreachable(provider: ProviderRow, error: unknown): Problem {
  const cause: unknown = error instanceof Error && error.cause !== undefined ? error.cause : error;
  const why =
    cause instanceof OutsideError && cause.kind === 'inside'
      ? 'its address is on the internal network, and the operator does not list it'
      : cause instanceof OutsideError && cause.kind === 'too slow'
        ? 'it does not answer'
        : 'it cannot be reached, or answers something else';
  return new Problem(
    502,
    `${provider.name} does not sign anybody in just now: ${why}. Try again, or take another way to sign in.`,
  );
}

/**
 * A provider as it describes itself (OpenID Connect Discovery 1.0); looked up once in ten minutes.
 *
 * @throws a 502 problem where it cannot be reached
 */
export async function clientOf(provider: ProviderRow, settings: SignOnSettings): Promise<oidc.Configuration> {
  const key = JSON.stringify([
    provider.id,
    provider.issuer,
    provider.clientId,
    provider.sealed?.toString('hex'),
  ]);
  const kept = known.get(key);
  if (kept) return kept;
  const issuer = new URL(provider.issuer);
  const listed = settings.inside.includes(issuer.origin);
  if (issuer.protocol !== 'https:' && !listed)
    throw new Problem(
      422,
      `${provider.name} is asked over https only; the operator may list an address on the internal network.`,
    );
  try {
    const made = await oidc.discovery(
      issuer,
      provider.clientId,
      { [oidc.clockTolerance]: TOLERANCE_S },
      provider.sealed ? oidc.ClientSecretBasic(unseal(settings.secret, provider.sealed)) : oidc.None(),
      {
        [oidc.customFetch]: outsideFetch(settings.inside),
        timeout: TIMEOUT_MS / 1000,
        // eslint-disable-next-line @typescript-eslint/no-deprecated -- marked so to stand out; only at what the operator lists
        ...(listed ? { execute: [oidc.allowInsecureRequests] } : {}),
      },
    );
    known.set(key, made);
    return made;
  } catch (error) {
    throw unreachable(provider, error);
  }
}

const backTo = (settings: SignOnSettings): string => new URL('/sign-in/back', settings.url).href;

/** What has to be remembered until somebody comes back from a provider. */
export interface Asked {
  state: string;
  nonce: string;
  verifier: string;
}

/** Where to send somebody who wants to sign in with a provider: the code flow with PKCE (RFC 6749, RFC 7636). */
export async function askToSignIn(
  provider: ProviderRow,
  settings: SignOnSettings,
): Promise<{ to: string; asked: Asked }> {
  const client = await clientOf(provider, settings);
  const asked = {
    state: oidc.randomState(),
    nonce: oidc.randomNonce(),
    verifier: oidc.randomPKCECodeVerifier(),
  };
  const to = oidc.buildAuthorizationUrl(client, {
    redirect_uri: backTo(settings),
    scope: 'openid email profile',
    state: asked.state,
    nonce: asked.nonce,
    code_challenge: await oidc.calculatePKCECodeChallenge(asked.verifier),
    code_challenge_method: 'S256',
  });
  return { to: to.href, asked };
}

/** Who somebody is at a provider, by its claims. */
export interface Claimed {
  subject: string;
  mail: string | null;
  mailVerified: boolean;
  username: string | null;
  name: string | null;
  idToken: string | null;
}

const text = (value: unknown): string | null => (typeof value === 'string' && value !== '' ? value : null);

/**
 * Reads who came back from a provider.
 *
 * @param query the query of the address they came back to
 * @throws 422 where the provider did not sign them in, or what it says does not hold; 502 where it cannot be reached
 */
export async function readSignedIn(
  provider: ProviderRow,
  settings: SignOnSettings,
  query: string,
  asked: Asked,
): Promise<Claimed> {
  const client = await clientOf(provider, settings);
  try {
    const tokens = await oidc.authorizationCodeGrant(client, new URL(`${backTo(settings)}${query}`), {
      pkceCodeVerifier: asked.verifier,
      expectedState: asked.state,
      expectedNonce: asked.nonce,
      idTokenExpected: true,
    });
    const inToken = tokens.claims();
    if (!inToken) throw new Error('no ID token');
    const more =
      inToken.email === undefined && client.serverMetadata().userinfo_endpoint !== undefined
        ? await oidc.fetchUserInfo(client, tokens.access_token, inToken.sub)
        : {};
    const claims: Record<string, unknown> = { ...more, ...inToken };
    return {
      subject: inToken.sub,
      mail: text(claims.email),
      mailVerified: claims.email_verified === true,
      username: text(claims.preferred_username),
      name: text(claims.name),
      idToken: tokens.id_token ?? null,
    };
  } catch (error) {
    if (error instanceof oidc.AuthorizationResponseError)
      throw new Problem(422, `${provider.name} did not sign you in (${error.error}). Try again there.`);
    if (error instanceof OutsideError || (error instanceof Error && error.cause instanceof OutsideError))
      throw unreachable(provider, error);
    throw new Problem(
      422,
      `What ${provider.name} said of you could not be checked. Begin again; if it stays like this, tell a coordinator.`,
    );
  }
}

/** Where to send somebody to sign out at a provider too (RP-Initiated Logout 1.0); null where it has no such address. */
export async function signOutAddress(
  provider: ProviderRow,
  settings: SignOnSettings,
  sealedToken: Buffer | null,
): Promise<string | null> {
  const client = await clientOf(provider, settings);
  if (client.serverMetadata().end_session_endpoint === undefined) return null;
  return oidc.buildEndSessionUrl(client, {
    post_logout_redirect_uri: new URL('/sign-in', settings.url).href,
    ...(sealedToken ? { id_token_hint: unseal(settings.secret, sealedToken) } : {}),
  }).href;
}
