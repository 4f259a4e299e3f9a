import { escapeHtml } from '../core/content/escapeHtml.ts';
import { MOODS, type Mood } from './mail/mood.ts';

/** A page of a stand-in. */
export const page = (title: string, body: string): string => `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>${escapeHtml(title)}</title>
<style>
  body { font: 16px/1.5 Verdana, sans-serif; margin: 0 auto; max-width: 62rem; padding: 1.5rem; color: #1D2B2A; background: #F7F4EC; }
  table { border-collapse: collapse; width: 100%; background: #FFFEFA; }
  td, th { border-bottom: 1px solid #D8D0C0; padding: .5rem .75rem; text-align: left; vertical-align: top; }
  a { color: #8A4B12; } button { font: inherit; padding: .25rem .75rem; } form { display: inline; }
  iframe { width: 100%; height: 46rem; border: 1px solid #D8D0C0; background: #fff; } pre { white-space: pre-wrap; overflow-wrap: anywhere; background: #FFFEFA; padding: 1rem; }
</style></head><body><main>${body}</main></body></html>`;

/** How a stand-in behaves, each way a press. */
export const moodLine = (mood: Mood, words: Record<Mood, string>): string =>
  MOODS.map((each) =>
    each === mood
      ? `<strong>${words[each]}</strong>`
      : `<form method="post" action="/mood/${each}"><button>${words[each]}</button></form>`,
  ).join(' · ');

/** An instant in UTC, to the second. */
export const utc = (ms: number): string => new Date(ms).toISOString().slice(0, 19).replace('T', ' ');
