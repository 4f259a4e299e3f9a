import type { ReactNode } from 'react';

const TONES = {
  error: 'border-error text-error',
  warning: 'border-warning text-warning',
  info: 'border-info text-info',
  success: 'border-success text-success',
} as const;

/** A sentence that must be noticed, said aloud by screen readers where it is an error. */
export function Notice({ tone, children }: { tone: keyof typeof TONES; children: ReactNode }) {
  return (
    <div
      role={tone === 'error' ? 'alert' : 'status'}
      className={`border-l-4 bg-base-100 px-4 py-2 ${TONES[tone]}`}
    >
      {children}
    </div>
  );
}
