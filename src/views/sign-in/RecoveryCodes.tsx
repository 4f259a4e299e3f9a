import { CopyText } from '../../ui/CopyText.tsx';
import { download } from '../../ui/download.ts';

/** Recovery codes, shown this once. */
export function RecoveryCodes({ codes }: { codes: readonly string[] }) {
  const text = codes.join('\n');
  return (
    <div className="border-l-4 border-warning px-4 py-3">
      <p className="mb-3">
        <strong>Keep these recovery codes.</strong> Each signs you in once when you have nothing else at hand.
        They are shown this once; on paper in a drawer is a good place.
      </p>
      <CopyText text={text} label="Recovery codes" />
      <button
        type="button"
        className="btn btn-outline btn-sm mt-2"
        onClick={() => download('recovery-codes.txt', `${text}\n`, 'text/plain')}
      >
        Keep as a file
      </button>
    </div>
  );
}
