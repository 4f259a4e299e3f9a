import { lazily } from './lazily.tsx';
import type { NameSearchProps } from './NameCombo.tsx';

export type { Found } from './NameCombo.tsx';

const NotYet = ({ label }: NameSearchProps) => (
  <div className="flex flex-col gap-1">
    <span>{label}</span>
    <span className="input w-full" />
  </div>
);

/** Finds people, and groups where wanted, as their name is typed; what it is made with is fetched when it is shown. */
export const NameSearch = lazily(
  () => import('./NameCombo.tsx').then((module) => module.NameCombo),
  NotYet,
  'near',
);
