import { z } from 'zod';
import type { Actor } from '../../core/rights/decide.ts';
import { requireDesk } from '../accounts/require.ts';
import type { Database } from '../database/connection.ts';
import { fetchImage } from '../gateways/fetchImage.ts';
import { Problem } from '../problem.ts';
import { keepImage, type KeptImage } from './service.ts';

export const imageAddressSchema = z
  .object({
    address: z
      .string()
      .trim()
      .max(2000, 'An address has at most 2,000 letters')
      .pipe(z.url({ protocol: /^https?$/, error: 'The address of an image begins with https://' })),
  })
  .strict();

/**
 * Fetches the image at an address and keeps it like one that was chosen: it stays as it is now, whatever becomes of the address.
 *
 * @param inside the origins on the internal network that the operator lists; no others inside are asked
 * @throws 403 for those who do not work at the desk; 422 at `address` with why it cannot be had or is no image
 */
export async function keepFromAddress(
  db: Database,
  actor: Actor,
  { address }: z.infer<typeof imageAddressSchema>,
  inside: readonly string[],
): Promise<KeptImage> {
  requireDesk(actor);
  try {
    return await keepImage(db, actor, await fetchImage(address, inside), 'image');
  } catch (error) {
    if (!(error instanceof Problem) || error.status !== 422) throw error;
    throw new Problem(422, error.message, { errors: [{ field: 'address', detail: error.message }] });
  }
}
