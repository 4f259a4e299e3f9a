import type { BoardChoice } from './draft.ts';

/** The boards, to choose some of; those one may not post on say why. */
export function BoardBoxes({
  boards,
  chosen,
  onChange,
}: {
  boards: readonly BoardChoice[];
  chosen: readonly number[];
  onChange: (chosen: number[]) => void;
}) {
  return (
    <ul className="grid max-h-64 gap-x-6 overflow-y-auto sm:grid-cols-2">
      {boards.map((board) => (
        <li key={board.id}>
          <label
            className="flex min-h-11 cursor-pointer items-center gap-2"
            title={board.denied ?? undefined}
          >
            <input
              type="checkbox"
              className="checkbox checkbox-primary"
              checked={chosen.includes(board.id)}
              disabled={board.denied !== null && !chosen.includes(board.id)}
              onChange={(event) =>
                onChange(
                  event.target.checked ? [...chosen, board.id] : chosen.filter((each) => each !== board.id),
                )
              }
            />
            {board.name}
          </label>
        </li>
      ))}
    </ul>
  );
}
