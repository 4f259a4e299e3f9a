import { useRef, useState } from 'react';
import { lazily } from './lazily.tsx';
import { useAwake } from './useAwake.ts';

const PlacesMenu = lazily(
  () => import('./PlacesMenu.tsx').then((module) => module.PlacesMenu),
  () => null,
);

/** The places of the desk that do not fit at the foot of a phone, behind one word. */
export default function MorePlaces({
  places,
  current,
}: {
  places: readonly (readonly string[])[];
  current: string;
}) {
  const [open, setOpen] = useState(false);
  const trigger = useRef<HTMLButtonElement>(null);
  const awake = useAwake();
  const here = places.find(([path]) => path === current);
  return (
    <>
      <button
        ref={trigger}
        type="button"
        disabled={!awake}
        aria-haspopup="menu"
        aria-expanded={open}
        className={`flex min-h-11 items-center border-b-2 px-1.5 text-sm ${here ? 'border-primary font-semibold' : 'border-transparent'}`}
        onClick={() => setOpen(true)}
      >
        {here ? here[1] : 'More'}
      </button>
      {open ? <PlacesMenu trigger={trigger} places={places} onClose={() => setOpen(false)} /> : null}
    </>
  );
}
