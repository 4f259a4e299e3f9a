import { useEffect, useRef, useState } from 'react';
import type { Content } from '../../core/content/announcement.ts';
import type { Plan } from '../../core/plan/plan.ts';
import { briefOf, type Forecast } from '../../core/sends/forecast.ts';
import { ask, wordsOf } from '../../ui/api.ts';

/**
 * What a plan would do, asked of the server anew each time the plan, or what of the text it depends on, has changed.
 *
 * @returns the latest forecast, and a way to put one in its place that was asked for elsewhere
 */
export function useForecast(
  firstForecast: Forecast,
  plan: Plan,
  content: Content,
  onError: (words: string) => void,
): [Forecast, (forecast: Forecast) => void] {
  const [forecast, setForecast] = useState(firstForecast);
  const failed = useRef(onError);
  useEffect(() => {
    failed.current = onError;
  });

  // What the plan depends on, as one value: a letter more in the text asks nothing anew.
  const asked = JSON.stringify({ plan, brief: briefOf(content) });
  const first = useRef(true);
  const latest = useRef(0);
  useEffect(() => {
    if (first.current) {
      first.current = false;
      return undefined;
    }
    const mine = ++latest.current;
    const timer = setTimeout(() => {
      ask<Forecast>('POST', '/api/forecast', JSON.parse(asked)).then(
        (found) => {
          if (mine === latest.current) setForecast(found);
        },
        (error: unknown) => failed.current(wordsOf(error)),
      );
    }, 150);
    return () => clearTimeout(timer);
  }, [asked]);

  // The count and the first rows are told at once; the rest of the forecast takes longer and follows.
  const addressed = JSON.stringify({ audience: plan.audience });
  const counted = useRef(addressed);
  useEffect(() => {
    if (counted.current === addressed) return undefined;
    counted.current = addressed;
    let current = true;
    ask<Pick<Forecast, 'people' | 'sample'>>('POST', '/api/count', JSON.parse(addressed)).then(
      (count) => {
        if (current) setForecast((before) => ({ ...before, ...count }));
      },
      () => undefined,
    );
    return () => {
      current = false;
    };
  }, [addressed]);

  return [forecast, setForecast];
}
