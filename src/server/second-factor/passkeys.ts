import {
  generateAuthenticationOptions,
  generateRegistrationOptions,
  verifyAuthenticationResponse,
  verifyRegistrationResponse,
  type AuthenticationResponseJSON,
  type AuthenticatorTransport,
  type PublicKeyCredentialCreationOptionsJSON,
  type PublicKeyCredentialRequestOptionsJSON,
  type RegistrationResponseJSON,
} from '@simplewebauthn/server';
import ipaddr from 'ipaddr.js';
import { z } from 'zod';
import { Problem } from '../problem.ts';
import type { StoredPasskey } from './store.ts';

/** For whom passkeys are (the relying party of Web Authentication): the host of the application's own address. */
export interface PasskeySite {
  id: string;
  origin: string;
}

/** The site of an application's address; null where browsers make no passkeys: at a bare number, or without https. */
export function passkeySite(url: string): PasskeySite | null {
  const { hostname, origin, protocol } = new URL(url);
  const secure = protocol === 'https:' || hostname === 'localhost';
  return secure && !ipaddr.isValid(hostname.replace(/^\[|\]$/g, '')) ? { id: hostname, origin } : null;
}

/** What a browser gives back; what is in it is checked by its signature. */
export const credentialSchema = z.object({ id: z.string().min(1).max(1400) }).loose();

const transportsOf = (stored: string): AuthenticatorTransport[] =>
  stored.split(' ').filter(Boolean) as AuthenticatorTransport[];

/** What a browser needs to make a passkey for somebody. */
export const makingOptions = (
  site: PasskeySite,
  of: { organisation: string; personId: number; mail: string; name: string },
  has: readonly StoredPasskey[],
): Promise<PublicKeyCredentialCreationOptionsJSON> =>
  generateRegistrationOptions({
    rpName: of.organisation,
    rpID: site.id,
    userID: new TextEncoder().encode(`person ${of.personId}`),
    userName: of.mail === '' ? of.name : of.mail,
    userDisplayName: of.name,
    attestationType: 'none',
    excludeCredentials: has.map((each) => ({
      id: each.credential,
      transports: transportsOf(each.transports),
    })),
    authenticatorSelection: { residentKey: 'preferred', userVerification: 'preferred' },
  });

/** What a browser needs to sign in with one of some passkeys; with whichever its owner has where none are named. */
export const usingOptions = (
  site: PasskeySite,
  has: readonly StoredPasskey[],
): Promise<PublicKeyCredentialRequestOptionsJSON> =>
  generateAuthenticationOptions({
    rpID: site.id,
    // A passkey that stands for both steps must ask who holds it; one that is the second may.
    userVerification: has.length === 0 ? 'required' : 'preferred',
    allowCredentials: has.map((each) => ({ id: each.credential, transports: transportsOf(each.transports) })),
  });

/** What whoever comes with a passkey that does not hold is told. */
export const notChecked = (): Problem =>
  new Problem(
    422,
    'The passkey could not be checked. Begin again; if it stays like this, take another way to sign in.',
  );

/** A passkey that was just made. @throws a 422 problem where it does not answer what was asked */
export async function checkMade(
  site: PasskeySite,
  challenge: string,
  given: z.infer<typeof credentialSchema>,
): Promise<{ credential: string; publicKey: Buffer; counter: number; transports: string }> {
  const checked = await verifyRegistrationResponse({
    response: given as unknown as RegistrationResponseJSON,
    expectedChallenge: challenge,
    expectedOrigin: site.origin,
    expectedRPID: site.id,
    requireUserVerification: false,
  }).catch(() => undefined);
  if (checked?.verified !== true) throw notChecked();
  const { credential } = checked.registrationInfo;
  return {
    credential: credential.id,
    publicKey: Buffer.from(credential.publicKey),
    counter: credential.counter,
    transports: (credential.transports ?? []).join(' ').slice(0, 200),
  };
}

/** Checks that a passkey has signed a challenge; gives its counter. @throws a 422 problem where it has not */
export async function checkUsed(
  site: PasskeySite,
  challenge: string,
  passkey: StoredPasskey,
  given: z.infer<typeof credentialSchema>,
  alone: boolean,
): Promise<number> {
  const checked = await verifyAuthenticationResponse({
    response: given as unknown as AuthenticationResponseJSON,
    expectedChallenge: challenge,
    expectedOrigin: site.origin,
    expectedRPID: site.id,
    credential: {
      id: passkey.credential,
      publicKey: new Uint8Array(passkey.publicKey),
      counter: passkey.counter,
      transports: transportsOf(passkey.transports),
    },
    requireUserVerification: alone,
  }).catch(() => undefined);
  if (checked?.verified !== true) throw notChecked();
  return checked.authenticationInfo.newCounter;
}
