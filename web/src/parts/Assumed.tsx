// What a result took for granted, folded.

export function Assumed({ sentences }: { sentences: string[] }) {
  if (!sentences.length) return null;
  return (
    <details className="soft tight my-2">
      <summary>What was assumed</summary>
      <ul className="mb-0">
        {sentences.map((a) => (
          <li key={a}>{a}</li>
        ))}
      </ul>
    </details>
  );
}
