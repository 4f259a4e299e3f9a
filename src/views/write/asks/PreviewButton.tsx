/** A button as its reader sees it; it cannot be pressed. */
export function PreviewButton({ words }: { words: string }) {
  return (
    <p className="mt-4">
      <span className="btn btn-primary pointer-events-none">{words}</span>
    </p>
  );
}
