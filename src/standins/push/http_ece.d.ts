/** Encrypted content coding, RFC 8188, with the keys of RFC 8291. */
declare module 'http_ece' {
  import type { ECDH } from 'node:crypto';
  const ece: {
    decrypt(body: Buffer, options: { version: 'aes128gcm'; privateKey: ECDH; authSecret: string }): Buffer;
  };
  export default ece;
}
