import { useState } from 'react';
import { useDebounce } from 'use-debounce';
import type { Content } from '../../core/content/announcement.ts';
import type { Plan } from '../../core/plan/plan.ts';
import { briefOf, type Forecast } from '../../core/sends/forecast.ts';
import { useWorkedOut, workOut } from '../../ui/server.ts';

/** What is changed within this time is asked for once. */
const SOON_MS = 150;

const PATH = '/api/forecast';
const same = (one: unknown, other: unknown): boolean => JSON.stringify(one) === JSON.stringify(other);
const givenOf = (plan: Plan, content: Content) => ({ plan, brief: briefOf(content) });

/**
 * What a plan would do, worked out by the server each time the plan, or what of the text it depends on, has changed: a letter more in
 * the text asks for nothing.
 *
 * @returns the latest forecast, why there is none of what is planned now, and a way to have it worked out at once
 */
export function useForecast(
  firstForecast: Forecast,
  plan: Plan,
  content: Content,
): { forecast: Forecast; error: Error | null; forecastNow: () => Promise<Forecast> } {
  const given = givenOf(plan, content);
  const [first] = useState(given);
  const [asked] = useDebounce(given, SOON_MS, { equalityFn: same });
  const whole = useWorkedOut(PATH, asked, { first: { given: first, found: firstForecast } });
  // The count and the first rows are told at once; the rest of the forecast takes longer and follows.
  const count = useWorkedOut(
    '/api/count',
    { audience: plan.audience },
    {
      first: {
        given: { audience: first.plan.audience },
        found: { people: firstForecast.people, sample: firstForecast.sample },
      },
    },
  );
  const latest = whole.data ?? firstForecast;
  const behind = whole.isPlaceholderData || !same(asked.plan.audience, plan.audience);
  return {
    forecast: behind && !count.isPlaceholderData ? { ...latest, ...count.data } : latest,
    error: whole.error,
    forecastNow: () => workOut(PATH, given),
  };
}
