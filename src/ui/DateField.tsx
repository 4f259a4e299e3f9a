import type { DateFieldProps } from './dateFields.tsx';
import { lazily } from './lazily.tsx';

const NotYet = ({ label, className = '' }: DateFieldProps) => (
  <div className={`flex flex-col gap-1 ${className}`}>
    <span>{label}</span>
    <span className="input w-full" />
  </div>
);

/** A date (YYYY-MM-DD), in the order the reader's language writes it, typed or picked from a month. */
export const DateField = lazily(
  () => import('./dateFields.tsx').then((module) => module.DateField),
  NotYet,
  'near',
);

/** A date and time of day (YYYY-MM-DDTHH:MM) of a clock on the wall. */
export const DateTimeField = lazily(
  () => import('./dateFields.tsx').then((module) => module.DateTimeField),
  NotYet,
  'near',
);

/** A time of day (HH:MM), by the 12 or 24 hours of the reader's language. */
export const TimeField = lazily(
  () => import('./dateFields.tsx').then((module) => module.TimeField),
  NotYet,
  'near',
);
