import { hash, verify } from '@node-rs/argon2';

/** OWASP's second recommended setting for Argon2id: 19 MiB, two passes, one lane. The package's algorithm is Argon2id. */
const OPTIONS = { memoryCost: 19_456, timeCost: 2, parallelism: 1 };

export function hashPassword(password: string): Promise<string> {
  return hash(password.normalize('NFKC'), OPTIONS);
}

let decoy: Promise<string> | undefined;

/** Whether the password is right. Takes as long where there is no such person, so that time tells nothing. */
export async function passwordMatches(stored: string | undefined, password: string): Promise<boolean> {
  decoy ??= hashPassword('nobody has this password');
  const matches = await verify(stored ?? (await decoy), password.normalize('NFKC'));
  return stored !== undefined && matches;
}
