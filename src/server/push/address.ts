import { lookup } from 'node:dns/promises';
import { BlockList, isIP } from 'node:net';
import { Problem } from '../problem.ts';

/** Addresses inside the house or of no single host: what a push must never be sent to on a stranger's word. */
const PRIVATE = new BlockList();
for (const [net, prefix] of [
  ['0.0.0.0', 8],
  ['10.0.0.0', 8],
  ['100.64.0.0', 10],
  ['127.0.0.0', 8],
  ['169.254.0.0', 16],
  ['172.16.0.0', 12],
  ['192.0.0.0', 24],
  ['192.168.0.0', 16],
  ['198.18.0.0', 15],
  ['224.0.0.0', 3],
] as const)
  PRIVATE.addSubnet(net, prefix, 'ipv4');
for (const [net, prefix] of [
  ['::', 127],
  ['64:ff9b::', 96],
  ['fc00::', 7],
  ['fe80::', 10],
  ['ff00::', 8],
] as const)
  PRIVATE.addSubnet(net, prefix, 'ipv6');

/** Whether an IP address is one that is reached from everywhere. */
export function isPublicAddress(address: string): boolean {
  const mapped = /^::ffff:(\d+\.\d+\.\d+\.\d+)$/i.exec(address)?.[1];
  const plain = mapped ?? address;
  const family = isIP(plain);
  return family !== 0 && !PRIVATE.check(plain, family === 4 ? 'ipv4' : 'ipv6');
}

const refuse = (detail: string): Problem =>
  new Problem(422, detail, { errors: [{ field: 'endpoint', detail }] });

/**
 * Refuses an endpoint that is not https, or whose host is inside the house. It is looked at again when something is sent
 * there, since a name may lead elsewhere by then.
 *
 * @param standIn the address of the stand-in push service of a demo, which is inside the house
 */
export async function demandPushAddress(endpoint: string, standIn: string | null): Promise<void> {
  const url = new URL(endpoint);
  if (standIn !== null && url.origin === new URL(standIn).origin) return;
  if (url.protocol !== 'https:') throw refuse('A push service has an address that begins with https://.');
  if (isIP(url.hostname.replace(/^\[|\]$/g, '')) !== 0) {
    if (!isPublicAddress(url.hostname.replace(/^\[|\]$/g, '')))
      throw refuse('That address is inside the house. A push service is outside.');
    return;
  }
  const found = await lookup(url.hostname, { all: true }).catch(() => []);
  if (found.some(({ address }) => !isPublicAddress(address)))
    throw refuse('That address is inside the house. A push service is outside.');
}
