import type { Rehearsal } from '../../core/sends/rehearsal.ts';

/** What outside places would be handed, each to be opened. */
export function Bodies({ bodies }: { bodies: Rehearsal['outside'] }) {
  return bodies.map(({ name, body, problem }) =>
    body === null ? (
      <p key={name} className="mt-2 text-error">
        {name}: {problem}
      </p>
    ) : (
      <details key={name} className="mt-2">
        <summary className="min-h-9 cursor-pointer text-sm link-quiet">What {name} is handed</summary>
        <pre className="max-h-96 overflow-auto bg-base-200 p-2 text-sm break-words whitespace-pre-wrap">
          {body}
        </pre>
      </details>
    ),
  );
}
