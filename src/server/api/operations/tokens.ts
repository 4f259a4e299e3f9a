import { z } from 'zod';
import { SCOPE_NAMES } from '../../../core/api/token.ts';
import { operationsAbout } from '../operation.ts';
import { at, atOrNull, id, instant } from '../shapes.ts';
import { listTokens, revokeToken } from '../tokens.ts';

const token = operationsAbout('Token');

/** None makes a token: whoever finds one could make others that outlive it. */
export const TOKENS = [
  token('GET /tokens', {
    id: 'listTokens',
    summary: 'The tokens there are, with what each may do and when it was used last',
    description:
      'Coordinators see everybody’s, others their own. What a token is itself is shown to nobody again.',
    answer: z.object({
      items: z.array(
        z.object({
          id,
          name: z.string(),
          owner: z.string(),
          mine: z.boolean(),
          scopes: z.array(z.enum(SCOPE_NAMES)),
          madeAt: instant,
          expiresAt: instant,
          usedAt: instant.nullable(),
          /** Of the last seven days. */
          calls: z.int(),
        }),
      ),
    }),
    run: async ({ db, actor }) => ({
      body: {
        items: (await listTokens(db, actor)).map(({ madeMs, expiresMs, usedMs, ...rest }) => ({
          ...rest,
          madeAt: at(madeMs),
          expiresAt: at(expiresMs),
          usedAt: atOrNull(usedMs),
        })),
      },
    }),
  }),
  token('DELETE /tokens/{id}', {
    id: 'revokeToken',
    summary: 'Revoke a token: it is refused from this moment',
    description: 'Your own, also the one this is called with; coordinators revoke anybody’s.',
    run: async ({ db, actor, id: of }) => {
      await revokeToken(db, actor, of());
      return undefined;
    },
  }),
];
