import { createECDH, hkdfSync } from 'node:crypto';

export interface VapidKeys {
  publicKey: string;
  privateKey: string;
}

/**
 * The key pair by which push services know this house (VAPID, RFC 8292), made from its secret, so that every process has
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
