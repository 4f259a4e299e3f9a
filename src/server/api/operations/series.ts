import { z } from 'zod';
import { seriesSchema } from '../../../core/series/series.ts';
import { changeSeries, listSeries, makeSeries, nextIssue, openSeries } from '../../series/service.ts';
import { operationsAbout } from '../operation.ts';
import { id } from '../shapes.ts';

const series = operationsAbout('Series');

/** A banner is given in the application: an upload has no place here. */
const frameInput = seriesSchema.omit({ banner: true }).strict();
const FRAME: z.input<typeof frameInput> = {
  name: 'The Seed Tray',
  heading: 'The Seed Tray {number}: ',
  byline: 'The desk',
  categories: ['Vaults'],
};

const seriesAnswer = z.object({
  id,
  name: z.string(),
  heading: z.string(),
  byline: z.string(),
  categories: z.array(z.string()),
  /** The number its next issue comes to. */
  nextNumber: z.int(),
});

export const SERIES = [
  series('GET /series', {
    id: 'listSeries',
    scope: 'announcements:read',
    summary: 'The series, by name',
    answer: z.object({ items: z.array(seriesAnswer) }),
    run: async ({ db, actor }) => ({ body: { items: await listSeries(db, actor) } }),
  }),
  series('POST /series', {
    id: 'makeSeries',
    scope: 'announcements:write',
    summary: 'Make a series, without a banner',
    body: frameInput,
    answer: z.object({ id }),
    makes: true,
    example: FRAME,
    run: async ({ db, actor, body }) => ({
      body: { id: await makeSeries(db, actor, { ...body, banner: null }) },
    }),
  }),
  series('PUT /series/{id}', {
    id: 'changeSeriesFrame',
    scope: 'announcements:write',
    summary: 'Change the frame of a series; its banner stays, and what has gone keeps its title',
    body: frameInput,
    example: FRAME,
    run: async ({ db, actor, body, id: of }) => {
      const { series: before } = await openSeries(db, actor, of(), null);
      await changeSeries(db, actor, of(), { ...body, banner: before.banner });
      return undefined;
    },
  }),
  series('POST /series/{id}/issues', {
    id: 'beginIssue',
    scope: 'announcements:write',
    summary: 'Begin the next issue of a series as a draft, in the frame of the last one',
    answer: z.object({ announcementId: id }),
    makes: true,
    run: async ({ db, actor, id: of }) => {
      const announcementId = await nextIssue(db, actor, of());
      return { body: { announcementId }, location: `/announcements/${announcementId}` };
    },
  }),
];
