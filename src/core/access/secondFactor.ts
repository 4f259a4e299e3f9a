/** How many recovery codes somebody has at once. */
export const RECOVERY_CODES = 10;

/** Most passkeys of one person. */
export const MOST_PASSKEYS = 20;

/** A device or key that signs somebody in (W3C Web Authentication). Instants in milliseconds since 1970. */
export interface PasskeyLine {
  id: number;
  name: string;
  addedMs: number;
  usedMs: number | null;
}

/** What somebody takes as a second step when they sign in. */
export interface SecondFactor {
  passkeys: PasskeyLine[];
  /** Since when codes from an app (RFC 6238) are asked for; null where they are not. */
  codesSinceMs: number | null;
  /** How many recovery codes can still be used. */
  recoveryLeft: number;
  /** Whether the operator demands a second step of whoever has this role. */
  demanded: boolean;
}

/** What an app for codes needs: the secret to type (base32), and a picture of the same to look at, as a data address. */
export interface CodeSecret {
  secret: string;
  picture: string;
}

/** A recovery code as it is written down: `ABCDE-FGHJK`. Capitals and digits that are not taken for each other. */
export const shownRecovery = (code: string): string => `${code.slice(0, 5)}-${code.slice(5)}`;

/** What was typed as a recovery code, in its one form: `O` and `I` stand for the digits they look like. */
export const readRecovery = (typed: string): string =>
  typed.toUpperCase().replace(/[\s-]/g, '').replace(/O/g, '0').replace(/[IL]/g, '1');
