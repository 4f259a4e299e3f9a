import { Sortable, useInOrder } from '../../Sortable.tsx';

export interface RankedListProps {
  /** What is in the order, the first first. */
  ranking: number[];
  wordsOf: (id: number) => string;
  onChange: (ranking: number[]) => void;
}

/** What is in an order: moved by its handle, or taken out again. */
export function RankedList({ ranking, wordsOf, onChange }: RankedListProps) {
  return (
    <Sortable ids={ranking} nameOf={wordsOf} onOrder={onChange}>
      <ol aria-label="Your order">
        {ranking.map((id, at) => (
          <Ranked
            key={id}
            id={id}
            place={at + 1}
            words={wordsOf(id)}
            onTakeOut={() => onChange(ranking.filter((each) => each !== id))}
          />
        ))}
      </ol>
    </Sortable>
  );
}

function Ranked({
  id,
  place,
  words,
  onTakeOut,
}: {
  id: number;
  place: number;
  words: string;
  onTakeOut: () => void;
}) {
  const { ref, style, handle } = useInOrder(id);
  return (
    <li
      ref={ref}
      style={style}
      className="flex min-h-11 items-center gap-2 border-t border-base-300 bg-base-100"
    >
      {handle}
      <span className="figure w-8 text-right">{place}.</span>
      <span className="flex-1" dir="auto">
        {words}
      </span>
      <button
        type="button"
        className="btn btn-outline"
        aria-label={`Take ${words} out of the order`}
        onClick={onTakeOut}
      >
        Out
      </button>
    </li>
  );
}
