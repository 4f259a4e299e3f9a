import type { APIRoute } from 'astro';
import { appContext } from '../../../server/http/appContext.ts';
import { answerScim } from '../../../server/scim/answer.ts';

/** SCIM 2.0 (RFC 7644): another system keeps people up to date. */
const answer: APIRoute = ({ request, params }) => {
  const { db, log, settings } = appContext();
  return answerScim(
    db,
    new URL('/scim/v2', settings.CLEAR_BELL_URL).href,
    (params.path ?? '').split('/').filter(Boolean),
    request,
    (error) => log.error({ err: error }, 'a request of SCIM failed'),
  );
};

export const GET = answer;
export const POST = answer;
export const PUT = answer;
export const PATCH = answer;
export const DELETE = answer;
