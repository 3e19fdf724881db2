import layout from '../style/layout.module.css';

const SHOWN = 8;

/** What was changed, a sentence each. */
export function Says({ says }: { says: readonly string[] | null }) {
  if (says === null || says.length === 0) return null;
  const left = says.length - SHOWN;
  return (
    <ul className={layout.quiet}>
      {says.slice(0, SHOWN).map((one) => (
        <li key={one}>{one}</li>
      ))}
      {left > 0 && <li>and {left} more</li>}
    </ul>
  );
}
