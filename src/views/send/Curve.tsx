import { CartesianGrid, Legend, Line, LineChart, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import type { CurvePoint } from '../../core/sends/after.ts';
import { ageMarks } from '../../core/timing/ageMarks.ts';
import { spanWords } from '../../core/timing/words.ts';

const LINES = [
  { key: 'delivered', words: 'delivered', stroke: 'var(--color-info)', dash: '' },
  { key: 'read', words: 'read', stroke: 'var(--color-primary)', dash: '7 4' },
  { key: 'answered', words: 'answered', stroke: 'var(--color-success)', dash: '2 3' },
] as const;

const age = (minutes: number): string => (minutes === 0 ? '0' : spanWords(minutes * 60_000));

/** How many had got, read and answered it, over the time since it was due. Each line has a dash of its own. */
export default function Curve({ curve, asks }: { curve: CurvePoint[]; asks: boolean }) {
  const lines = LINES.filter((line) => asks || line.key !== 'answered');
  return (
    <div className="h-64 w-full" aria-hidden="true">
      <ResponsiveContainer width="100%" height="100%" initialDimension={{ width: 640, height: 256 }}>
        <LineChart data={curve} margin={{ top: 8, right: 16, bottom: 4, left: 0 }} accessibilityLayer={false}>
          <CartesianGrid stroke="var(--color-base-300)" vertical={false} />
          <XAxis
            dataKey="minutes"
            type="number"
            domain={[0, 'dataMax']}
            ticks={ageMarks(curve.at(-1)?.minutes ?? 0)}
            tickFormatter={age}
            stroke="var(--quiet)"
            fontSize={12}
          />
          <YAxis allowDecimals={false} stroke="var(--quiet)" fontSize={12} width={44} />
          <Tooltip
            labelFormatter={(minutes) => `after ${age(Number(minutes))}`}
            contentStyle={{ background: 'var(--color-base-100)', border: '1px solid var(--color-base-300)' }}
          />
          <Legend />
          {lines.map((line) => (
            <Line
              key={line.key}
              type="monotone"
              dataKey={line.key}
              name={line.words}
              stroke={line.stroke}
              strokeDasharray={line.dash}
              strokeWidth={2}
              dot={false}
              isAnimationActive={false}
            />
          ))}
        </LineChart>
      </ResponsiveContainer>
    </div>
  );
}
