import type { APIRoute } from 'astro';
import { answerApi } from '../../../server/api/answer.ts';
import { API_PATH, openApi } from '../../../server/api/openapi.ts';
import { appContext } from '../../../server/http/appContext.ts';

/** The API for outside programs. Its description is open to anybody; all else takes a token, and no cookie counts. */
const answer: APIRoute = ({ request, params }) => {
  const { db, attempts, settings } = appContext();
  const base = new URL(API_PATH, settings.CLEAR_BELL_URL).href;
  const path = `/${params.path ?? ''}`;
  if (request.method === 'GET' && path === '/openapi.json')
    return Response.json(openApi(base), { headers: { 'cache-control': 'public, max-age=300' } });
  return answerApi({ db, attempts, base, settings }, request, path);
};

export const GET = answer;
export const POST = answer;
export const PUT = answer;
export const PATCH = answer;
export const DELETE = answer;
