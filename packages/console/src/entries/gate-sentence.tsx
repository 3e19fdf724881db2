import { Fragment, type ReactNode } from 'react';
import { Link } from 'react-router';
import type { ListedGate } from '@kleidon/client';
import css from './gate-sentence.module.css';
import layout from '../style/layout.module.css';

const gateAt = (site: string, name: string, field?: string): string =>
  `/sites/${site}/access/gates?${new URLSearchParams({ name, ...(field ? { field } : {}) }).toString()}`;

/** Where a gate stands, whom it admits, and what happens to everyone else. */
export function GateSentence({ gate, site }: { gate: ListedGate; site: string }) {
  const { name, right, scopes, admits, otherwise, narrows, fullAccess, above, inside } = gate;
  const part = (field: string, content: ReactNode) => (
    <Link className={css.part} to={gateAt(site, name, field)}>
      {content}
    </Link>
  );
  return (
    <div className={css.sentence}>
      {part(scopes[0]?.includes(' ') ? 'under' : 'at', scopes.join(', '))}
      {right === 'change' && <> ({part('right', 'to change it')})</>}: admits{' '}
      {part('admit', admits)}
      {'. '}
      {otherwise.length > 0 && (
        <>
          Everyone else:{' '}
          {part(
            'otherwise',
            otherwise
              .map(({ who, what }) => (who === 'everyone' ? what : `${who}, ${what}`))
              .join('; all others '),
          )}
          {'. '}
        </>
      )}
      {narrows && <>{part('narrows', 'The gate above must admit too')}. </>}
      {!fullAccess && <>{part('full-access', 'Full access does not pass')}. </>}
      {!gate.isInForce && <strong>Not in force now. </strong>}
      {above.length > 0 && <Gates label="Inside" names={above} site={site} />}
      {inside.length > 0 && <Gates label="Exceptions" names={inside} site={site} />}
    </div>
  );
}

function Gates({ label, names, site }: { label: string; names: readonly string[]; site: string }) {
  return (
    <span className={layout.quiet}>
      {label}:{' '}
      {names.map((name, i) => (
        <Fragment key={name}>
          {i > 0 && ', '}
          <Link to={gateAt(site, name)}>{name}</Link>
        </Fragment>
      ))}
      .{' '}
    </span>
  );
}
