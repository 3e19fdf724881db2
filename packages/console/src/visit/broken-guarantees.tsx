import type { Check } from '@kleidon/client';
import layout from '../style/layout.module.css';
import { WitnessLink } from './witness-link.tsx';

/** Guarantees that do not hold, each with the visit that shows it. */
export function BrokenGuarantees({
  guarantees,
  shownIn,
}: {
  guarantees: Check['guarantees'];
  /** Where those visits can be seen; absent where there is no such state of the site yet. */
  shownIn?: { readonly site: string; readonly state: string };
}) {
  return (
    <ul className={layout.plain}>
      {guarantees.map(({ name, words, message, witness }) => (
        <li key={name}>
          <strong className={layout.refused}>
            <span aria-hidden>×</span> Broken guarantee {name}:
          </strong>{' '}
          {words}. {message} {witness && shownIn && <WitnessLink witness={witness} {...shownIn} />}
        </li>
      ))}
    </ul>
  );
}
