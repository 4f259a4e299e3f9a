/** What was read otherwise than it says. */
export function Warnings({ words }: { words: readonly string[] }) {
  const FEW = 3;
  return (
    <ul className="list-disc pl-5 text-sm text-warning">
      {words.slice(0, FEW).map((each) => (
        <li key={each} dir="auto">
          {each}
        </li>
      ))}
      {words.length > FEW ? <li>and {words.length - FEW} more of this kind</li> : null}
    </ul>
  );
}
