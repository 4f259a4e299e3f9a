import { request as httpRequest } from 'node:http';
import { request as httpsRequest } from 'node:https';
import ipaddr from 'ipaddr.js';
import { InsideAddress, isPublicAddress, outsideOnly } from '../outside/address.ts';

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
  if (ipaddr.isValid(address) && !isPublicAddress(address))
    return Promise.resolve(verdict('unknown', 'it is a private address, which is not checked'));
  return new Promise((resolve) => {
    const request = (url.protocol === 'https:' ? httpsRequest : httpRequest)(
      url,
      {
        method: 'HEAD',
        timeout: TIMEOUT_MS,
        lookup: outsideOnly,
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
      else if (error instanceof InsideAddress)
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
