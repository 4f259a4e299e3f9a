import { createHash, generateKeyPairSync, randomBytes, sign } from 'node:crypto';

const sha256 = (of: string | Buffer): Buffer => createHash('sha256').update(of).digest();
const json = (of: unknown): Buffer => Buffer.from(JSON.stringify(of));

/** What a ceremony is tampered with in. */
interface Tampering {
  origin?: string;
  /** Whether it looks at who holds it: the flag UV. */
  verified?: boolean;
  /** Which counter it says, where it is not the next. */
  counter?: number;
}

/**
 * A device that makes passkeys and signs with them, as Web Authentication has it (level 3): keys on P-256, attestation "none".
 */
export class Authenticator {
  readonly credential = randomBytes(24).toString('base64url');
  readonly #keys = generateKeyPairSync('ec', { namedCurve: 'P-256' });
  readonly #origin: string;
  #counter = 0;

  constructor(origin: string) {
    this.#origin = origin;
  }

  #client(type: string, challenge: string, origin = this.#origin): Buffer {
    return json({ type, challenge, origin, crossOrigin: false });
  }

  /** The authenticator data: for whom, the flags UP, UV and AT, and the counter. */
  #data(site: string, flags: number, counter: number): Buffer {
    const count = Buffer.alloc(4);
    count.writeUInt32BE(counter);
    return Buffer.concat([sha256(site), Buffer.from([flags]), count]);
  }

  /** The public key as COSE has it (RFC 9053): EC2, ES256, on P-256. */
  #publicKey(): Buffer {
    const { x = '', y = '' } = this.#keys.publicKey.export({ format: 'jwk' });
    return Buffer.concat([
      Buffer.from('a5010203262001215820', 'hex'),
      Buffer.from(x, 'base64url'),
      Buffer.from('225820', 'hex'),
      Buffer.from(y, 'base64url'),
    ]);
  }

  /** What a browser gives back of either ceremony. */
  #given<T>(response: T) {
    return {
      id: this.credential,
      rawId: this.credential,
      type: 'public-key',
      clientExtensionResults: {},
      response,
    };
  }

  /** Makes the passkey, for what `beginPasskey` gave. */
  make(options: { challenge: string; rp: { id?: string | undefined } }, { origin }: Tampering = {}) {
    const id = Buffer.from(this.credential, 'base64url');
    const data = Buffer.concat([
      this.#data(options.rp.id ?? '', 0x45, this.#counter),
      Buffer.alloc(16),
      Buffer.from([0, id.length]),
      id,
      this.#publicKey(),
    ]);
    // CBOR (RFC 8949): { fmt: "none", attStmt: {}, authData: bytes }.
    const attestation = Buffer.concat([
      Buffer.from('a363666d74646e6f6e656761747453746d74a0686175746844617461', 'hex'),
      Buffer.from([0x58, data.length]),
      data,
    ]);
    return this.#given({
      clientDataJSON: this.#client('webauthn.create', options.challenge, origin).toString('base64url'),
      attestationObject: attestation.toString('base64url'),
      transports: ['internal'],
    });
  }

  /** Signs in with it, for what `passkeyForStep` or `beginByPasskey` gave. */
  use(
    options: { challenge: string; rpId?: string | undefined },
    { origin, verified = true, counter = ++this.#counter }: Tampering = {},
  ) {
    const data = this.#data(options.rpId ?? '', verified ? 0x05 : 0x01, counter);
    const client = this.#client('webauthn.get', options.challenge, origin);
    return this.#given({
      clientDataJSON: client.toString('base64url'),
      authenticatorData: data.toString('base64url'),
      signature: sign('sha256', Buffer.concat([data, sha256(client)]), this.#keys.privateKey).toString(
        'base64url',
      ),
    });
  }
}
