import type { APIContext, APIRoute } from 'astro';
import type { AskBox } from '../../../../core/asks/box.ts';
import { answer } from '../../../../server/asks/answering.ts';
import { answerSchema } from '../../../../server/asks/kind.ts';
import { askBox } from '../../../../server/asks/boxes.ts';
import { openEndpointWith } from '../../../../server/http/endpoint.ts';
import { appContext } from '../../../../server/http/appContext.ts';
import { errorResponse } from '../../../../server/http/problemDetails.ts';
import { openLink, type LinkPage } from '../../../../server/links/service.ts';
import { Problem } from '../../../../server/problem.ts';

type Good = Extract<LinkPage, { state: 'good' }>;

/** The link an answer comes through: whoever has it answers for the person it was sent to, and for nobody else. */
async function whose(context: APIContext): Promise<Good> {
  const { db, settings } = appContext();
  const page = await openLink(db, settings.CLEAR_BELL_SECRET, context.params.token ?? '', 'answer');
  if (page.state === 'expired') throw new Problem(410, 'This link is too old to be used.');
  if (page.state !== 'good') throw new Problem(404, 'This link is not whole, or no longer leads anywhere.');
  return page;
}

function boxOf({ claim, zone }: Good): Promise<AskBox> {
  const { db, settings } = appContext();
  return askBox(db, settings.CLEAR_BELL_SECRET, { id: claim.personId, zone }, claim.occurrenceId);
}

export const GET: APIRoute = async (context) => {
  try {
    return Response.json(await boxOf(await whose(context)), { headers: { 'cache-control': 'no-store' } });
  } catch (error) {
    return errorResponse(error);
  }
};

export const POST = openEndpointWith(answerSchema, async (given, context) => {
  const page = await whose(context);
  const { db, settings } = appContext();
  const { personId, occurrenceId } = page.claim;
  await answer(db, settings.CLEAR_BELL_SECRET, personId, occurrenceId, given, 'mail');
  return boxOf(page);
});
