import { z } from 'zod';
import { endpointWith } from '../../server/http/endpoint.ts';

export const POST = endpointWith(
  z.object({ theme: z.enum(['day', 'night', 'system']) }),
  ({ theme }, { context }) => {
    if (theme === 'system') context.cookies.delete('theme', { path: '/' });
    else
      context.cookies.set('theme', theme, { path: '/', maxAge: 31_536_000, sameSite: 'lax', httpOnly: true });
  },
);
