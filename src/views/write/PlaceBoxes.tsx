import type { PlaceChoice } from '../../core/gateways/hookOut.ts';

/** The outside places, to choose some of; those one may not send to say why. Nothing where there are none. */
export function PlaceBoxes({
  places,
  chosen,
  onChange,
}: {
  places: readonly PlaceChoice[];
  chosen: readonly number[];
  onChange: (chosen: number[]) => void;
}) {
  if (places.length === 0) return null;
  return (
    <fieldset>
      <legend className="mb-1 font-semibold">And to outside places</legend>
      <ul className="grid gap-x-6 sm:grid-cols-2">
        {places.map((place) => (
          <li key={place.id}>
            <label className="flex min-h-11 cursor-pointer items-center gap-2">
              <input
                type="checkbox"
                className="checkbox checkbox-primary"
                checked={chosen.includes(place.id)}
                disabled={place.denied !== null && !chosen.includes(place.id)}
                onChange={(event) =>
                  onChange(
                    event.target.checked ? [...chosen, place.id] : chosen.filter((id) => id !== place.id),
                  )
                }
              />
              <span className="min-w-0">
                <span dir="auto">{place.name}</span>
                {place.denied === null ? null : (
                  <span className="block text-sm text-quiet">{place.denied}</span>
                )}
              </span>
            </label>
          </li>
        ))}
      </ul>
    </fieldset>
  );
}
