import { deadlineOf } from '../../src/core/asks/ask.ts';
import { acknowledgement } from '../../src/core/asks/acknowledgement/acknowledgement.ts';
import { describe, expect, it } from 'vitest';
import {
  EMPTY_PLAN,
  bucketsOnce,
  HOLD_MS,
  mayUnsubscribe,
  planProblems,
  planSchema,
  type Plan,
} from '../../src/core/plan/plan.ts';
import { briefText, sentenceText } from '../../src/core/plan/sentence.ts';

type Once = Parameters<typeof bucketsOnce>[0];

const NOW = Date.parse('2026-11-24T10:00:00Z');
const names = {
  group: (id: number) => ['', 'Vault keyholders', 'On leave'][id],
  station: () => undefined,
  person: () => undefined,
  occurrence: () => undefined,
  board: () => 'Vault alerts',
  outside: () => 'Town bulletin',
};
const plan: Plan = {
  audience: { kind: 'except', from: { kind: 'group', id: 1 }, minus: { kind: 'group', id: 2 } },
  mail: true,
  boards: [4],
  outside: [],
  contacts: false,
  timing: { kind: 'at', wall: '2026-12-01T09:00', zone: 'Asia/Kathmandu' },
  ask: acknowledgement({ deadline: { wall: '2026-12-04T12:00', zone: 'Europe/London' } }),
};
const fields = (part: Partial<Plan>): string[] =>
  planProblems({ ...plan, ...part }, null, [], NOW).map((problem) => problem.field);

describe('a plan', () => {
  it('reads as the sentence that will happen', () => {
    expect(sentenceText(plan, names, NOW)).toBe(
      'To Vault keyholders except On leave, by inbox and mail, and on the board Vault alerts, ' +
        'at 09:00 on Tuesday 1 December in Kathmandu, ' +
        'asking them to acknowledge by 12:00 on Friday 4 December in London.',
    );
    expect(briefText({ ...plan, ask: { kind: 'nothing' } }, names, NOW)).toBe(
      'To Vault keyholders except On leave, by inbox and mail, and on the board Vault alerts.',
    );
    expect(sentenceText(EMPTY_PLAN, names, NOW)).toBe(
      'To nobody yet, no way chosen yet, now, asking for nothing back.',
    );
  });

  it('is due when its wall clock says, and never before the hold is over', () => {
    const due = (timing: Once): number | undefined => bucketsOnce(timing, null, [], NOW)[0]?.dueMs;
    const at: Once = { kind: 'at', wall: '2026-12-01T09:00', zone: 'Asia/Kathmandu' };
    expect(new Date(due(at) ?? 0).toISOString()).toBe('2026-12-01T03:15:00.000Z');
    expect(due({ kind: 'now' })).toBe(NOW + HOLD_MS);
    expect(due({ kind: 'at', wall: '2026-11-24T10:00', zone: 'UTC' })).toBe(NOW + HOLD_MS);
    expect(deadlineOf(plan.ask, NOW)).toBe(Date.parse('2026-12-04T12:00:00Z'));
    expect(deadlineOf(acknowledgement({ within: 3 }), NOW)).toBe(NOW + 3 * 3_600_000);
  });

  it('says what keeps it from going out', () => {
    expect(fields({})).toEqual([]);
    expect(fields({ audience: null, boards: [], ask: { kind: 'nothing' } })).toEqual(['audience']);
    expect(fields({ audience: null })).toEqual(['ask']);
    expect(fields({ timing: { kind: 'at', wall: '2026-11-24T09:00', zone: 'UTC' } })).toEqual([
      'timing.wall',
    ]);
    // Noon in Auckland on the day before is long past there.
    const early = acknowledgement({ deadline: { wall: '2026-12-01T03:00', zone: 'UTC' } });
    expect(fields({ ask: early })).toEqual(['ask.deadline']);
  });

  it('is stored only whole', () => {
    expect(planSchema.safeParse(plan).success).toBe(true);
    expect(planSchema.safeParse({ ...plan, timing: { kind: 'at', wall: 'soon', zone: 'UTC' } }).success).toBe(
      false,
    );
    expect(planSchema.safeParse({ ...plan, audience: { kind: 'nobody' } }).success).toBe(false);
  });

  it('may be unsubscribed from only where it is neither urgent nor asks for an answer', () => {
    expect(mayUnsubscribe('important', { kind: 'nothing' })).toBe(true);
    expect(mayUnsubscribe('urgent', { kind: 'nothing' })).toBe(false);
    expect(mayUnsubscribe('routine', plan.ask)).toBe(false);
  });
});
