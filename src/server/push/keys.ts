import { createECDH, hkdfSync } from 'node:crypto';
import { Problem } from '../problem.ts';

export interface VapidKeys {
  publicKey: string;
  privateKey: string;
}

/**
 * The key pair by which push services know this organisation (VAPID, RFC 8292), made from its secret, so that every process has
 * the same one and none is stored. Another secret is another pair: devices then connect anew.
 */
export function vapidKeys(secret: string): VapidKeys {
  const curve = createECDH('prime256v1');
  for (let i = 0; ; i++) {
    const candidate = Buffer.from(hkdfSync('sha256', secret, '', `clear bell vapid ${i}`, 32));
    try {
      // Refused, one time in 2^32, where the number is not one of the curve's.
      curve.setPrivateKey(candidate);
      return {
        publicKey: curve.getPublicKey('base64url'),
        privateKey: candidate.toString('base64url'),
      };
    } catch {
      continue;
    }
  }
}

/** Refuses the keys of a device that no message can be encrypted for: no point of the curve, or a secret of another length. */
export function requireDeviceKeys({ p256dh, auth }: { p256dh: string; auth: string }): void {
  const refuse = (field: string, detail: string): Problem =>
    new Problem(422, detail, { errors: [{ field: `keys.${field}`, detail }] });
  try {
    const curve = createECDH('prime256v1');
    curve.generateKeys();
    curve.computeSecret(Buffer.from(p256dh, 'base64url'));
  } catch {
    throw refuse('p256dh', 'That is no public key of a device. Connect the device again.');
  }
  if (Buffer.from(auth, 'base64url').byteLength !== 16)
    throw refuse('auth', 'That is no secret of a device. Connect the device again.');
}
