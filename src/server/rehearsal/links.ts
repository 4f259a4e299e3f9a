import { lookup as dnsLookup, type LookupAddress } from 'node:dns';
import { request as httpRequest } from 'node:http';
import { request as httpsRequest } from 'node:https';
import { BlockList, isIP, type LookupFunction } from 'node:net';

/** Addresses a check of a link never speaks to: this machine, the networks around it, and what is no host. */
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

const isPrivate = (address: string): boolean => {
  const mapped = /^::ffff:(\d+\.\d+\.\d+\.\d+)$/i.exec(address)?.[1] ?? address;
  return PRIVATE.check(mapped, isIP(mapped) === 6 ? 'ipv6' : 'ipv4');
};

class PrivateAddress extends Error {}

/** Looks a name up and refuses private addresses at the moment of connecting, so that a name cannot change between. */
const publicLookup: LookupFunction = (hostname, options, callback) => {
  dnsLookup(hostname, { ...options, all: true }, (error, addresses: LookupAddress[]) => {
    if (error) {
      callback(error, '', 0);
      return;
    }
    const [first] = addresses;
    if (!first || addresses.some((each) => isPrivate(each.address))) {
      callback(new PrivateAddress('a private address'), '', 0);
      return;
    }
    if (options.all) callback(null, addresses);
    else callback(null, first.address, first.family);
  });
};

export interface LinkVerdict {
  url: string;
  state: 'good' | 'dead' | 'unknown';
  /** Of what is not good: why, in words. */
  why: string;
}

const TIMEOUT_MS = 3_000;

function head(url: URL): Promise<LinkVerdict> {
  const verdict = (state: LinkVerdict['state'], why = ''): LinkVerdict => ({ url: url.href, state, why });
  const address = url.hostname.replace(/^\[|\]$/g, '');
  if (isIP(address) && isPrivate(address))
    return Promise.resolve(verdict('unknown', 'it is a private address, which is not checked'));
  return new Promise((resolve) => {
    const request = (url.protocol === 'https:' ? httpsRequest : httpRequest)(
      url,
      {
        method: 'HEAD',
        timeout: TIMEOUT_MS,
        lookup: publicLookup,
        headers: { 'user-agent': 'Clear Bell link check' },
      },
      (response) => {
        response.resume();
        const status = response.statusCode ?? 0;
        resolve(
          status === 404 || status === 410
            ? verdict('dead', `it answers ${status}: there is nothing there`)
            : verdict('good'),
        );
      },
    );
    request.on('timeout', () => {
      request.destroy();
      resolve(verdict('unknown', 'it did not answer within three seconds'));
    });
    request.on('error', (error) => {
      const code = 'code' in error ? String(error.code) : '';
      if (code === 'ENOTFOUND') resolve(verdict('dead', 'there is no such site'));
      else if (error instanceof PrivateAddress)
        resolve(verdict('unknown', 'it is a private address, which is not checked'));
      else resolve(verdict('unknown', 'it could not be reached from here'));
    });
    request.end();
  });
}

/** Looks whether the places links lead to are there; at most thirty, all at once. Mail and telephone are not tried. */
export async function checkLinks(urls: readonly string[]): Promise<LinkVerdict[]> {
  const wanted = [...new Set(urls)].filter((url) => /^https?:/i.test(url) && URL.canParse(url)).slice(0, 30);
  return Promise.all(wanted.map((url) => head(new URL(url))));
}
