const CHOICES = [
  { choice: 'follow', words: 'Follow', chosen: 'Followed' },
  { choice: 'mute', words: 'Mute', chosen: 'Muted' },
] as const;

/** Whether the reader is told of what is answered to a post: followed, muted, or as they have it otherwise. */
export function Following({
  following,
  awake,
  onChoose,
}: {
  following: string | null;
  awake: boolean;
  onChoose: (choice: 'follow' | 'mute' | null) => void;
}) {
  return CHOICES.map(({ choice, words, chosen }) => (
    <button
      key={choice}
      type="button"
      className="btn btn-ghost btn-sm"
      disabled={!awake}
      aria-pressed={following === choice}
      onClick={() => onChoose(following === choice ? null : choice)}
    >
      {following === choice ? chosen : words}
    </button>
  ));
}
