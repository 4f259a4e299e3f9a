import type { MailHeaders } from './headers.ts';

/** Comments and quotes taken out of a value (RFC 5322 section 3.2.2), so that nothing in them counts. */
function bare(value: string): string {
  let text = '';
  let depth = 0;
  for (let at = 0; at < value.length; at++) {
    const sign = value[at] ?? '';
    if (sign === '\\') {
      if (depth === 0) text += value[at + 1] ?? '';
      at++;
    } else if (sign === '(') depth++;
    else if (sign === ')' && depth > 0) depth--;
    else if (depth === 0 && sign !== '"') text += sign;
  }
  return text;
}

/** Whether a domain that was proved stands for the one in From: the same, or one above it (relaxed, RFC 7489 section 3.1). */
const stands = (proved: string, from: string): boolean =>
  proved !== '' && proved.includes('.') && (from === proved || from.endsWith(`.${proved}`));

/**
 * Whether the server in front has proved that a mail comes from the domain it says (RFC 8601). Only the topmost header of that
 * server counts: one further down may have come along with the mail. It holds where DMARC passed, or DKIM or SPF passed for the
 * domain of the address in From or one above it.
 *
 * @param server the name under which the server in front writes its results (its authserv-id)
 * @param from the address in From
 */
export function isAuthentic(headers: MailHeaders, server: string, from: string): boolean {
  const domain = from.split('@').at(-1)?.toLowerCase() ?? '';
  const own = headers
    .filter(({ name }) => name === 'authentication-results')
    .map(({ value }) => bare(value).split(';'))
    .find(([id = '']) => id.trim().split(/\s+/)[0]?.toLowerCase() === server.toLowerCase());
  return (own ?? []).slice(1).some((part) => {
    const [result = '', ...properties] = part.trim().toLowerCase().split(/\s+/);
    const property = (name: string): string =>
      properties.find((each) => each.startsWith(`${name}=`))?.slice(name.length + 1) ?? '';
    const proves = (name: string): boolean => {
      const value = property(name);
      return stands(value.split('@').at(-1) ?? '', domain);
    };
    if (result === 'dmarc=pass') return property('header.from') === '' || proves('header.from');
    if (result === 'dkim=pass') return proves('header.d') || proves('header.i');
    return result === 'spf=pass' && proves('smtp.mailfrom');
  });
}
