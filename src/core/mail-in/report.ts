/** What a delivery report says of one recipient (RFC 3464 section 2.3). */
export interface ReportedRecipient {
  /** The address it was for, as the server that gave up knew it; empty where it does not say. */
  address: string;
  action: string;
  /** An enhanced status code (RFC 3463), such as 5.1.1. */
  status: string;
  /** Why, in the words of the server that refused it. */
  reason: string;
}

const fieldsOf = (group: string): Map<string, string> =>
  new Map(
    group
      .replace(/\r?\n[ \t]+/g, ' ')
      .split(/\r?\n/)
      .flatMap((line): [string, string][] => {
        const at = line.indexOf(':');
        return at < 1 ? [] : [[line.slice(0, at).trim().toLowerCase(), line.slice(at + 1).trim()]];
      }),
  );

/** What stands after the kind of an address or a code: `rfc822; somebody@place.example`. */
const valueOf = (typed: string | undefined): string => (typed ?? '').replace(/^[^;]*;/, '').trim();

/**
 * The recipients of a delivery report: its part of the kind message/delivery-status (RFC 3464). The first group is of the whole
 * mail and names no recipient.
 */
export function recipientsIn(report: string): ReportedRecipient[] {
  return report
    .trim()
    .split(/\r?\n\s*\r?\n/)
    .map(fieldsOf)
    .filter((fields) => fields.has('final-recipient') || fields.has('original-recipient'))
    .slice(0, 100)
    .map((fields) => ({
      address: valueOf(fields.get('original-recipient') ?? fields.get('final-recipient')),
      action: (fields.get('action') ?? '').toLowerCase(),
      status: /\d\.\d{1,3}\.\d{1,3}/.exec(fields.get('status') ?? '')?.[0] ?? '',
      reason: valueOf(fields.get('diagnostic-code')) || (fields.get('status') ?? ''),
    }));
}

/** Whether it came back for good: what is only late will still be tried by the server that has it. */
export const isForGood = ({ action, status }: ReportedRecipient): boolean =>
  action === 'failed' && !status.startsWith('4.') && !status.startsWith('2.');
