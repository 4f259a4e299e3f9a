import { bytesWords } from '../../core/words.ts';
import { OutsideError, requestOutside } from '../outside/request.ts';
import { Problem } from '../problem.ts';
import { MOST_UPLOAD } from '../uploads/service.ts';

const TIMEOUT_MS = 10_000;
const WORDS: Record<OutsideError['kind'], string> = {
  inside: 'The address of the image is on the internal network, and the operator does not list it.',
  'too large': `The image has more than ${bytesWords(MOST_UPLOAD)}. Send a smaller one.`,
  'too slow': 'The image was not answered within ten seconds. Send its bytes instead.',
  unreachable: 'The image could not be fetched. Look at its address, or send its bytes.',
};

/** Fetches an image that a message names by its address. @throws 422 where it cannot be had */
export async function fetchImage(address: string, inside: readonly string[]): Promise<Buffer> {
  try {
    const { status, body } = await requestOutside(address, {
      headers: { accept: 'image/*' },
      inside,
      timeoutMs: TIMEOUT_MS,
      most: MOST_UPLOAD,
    });
    if (status !== 200) throw new Problem(422, `The address of the image answered ${status}.`);
    return body;
  } catch (error) {
    throw error instanceof OutsideError ? new Problem(422, WORDS[error.kind]) : error;
  }
}
