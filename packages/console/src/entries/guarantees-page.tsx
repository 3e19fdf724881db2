import { useQuery } from '@tanstack/react-query';
import { useOutletContext } from 'react-router';
import type { Check } from '@kleidon/client';
import { findingsQuery } from '../changes/findings-query.ts';
import type { SiteFrame } from '../shell/shell.tsx';
import layout from '../style/layout.module.css';
import { WitnessLink } from '../visit/witness-link.tsx';
import { EntriesPage } from './entries-page.tsx';
import { GUARANTEES } from './sections.ts';

/** The guarantees as sentences, each proved, or refuted by a visit that can be looked at. */
export function GuaranteesPage() {
  const { site, pending } = useOutletContext<SiteFrame>();
  const check = useQuery(findingsQuery(site.id, pending));
  const known = check.data?.errors.length === 0 ? check.data.guarantees : null;
  return (
    <EntriesPage
      section={GUARANTEES}
      sentence={
        known
          ? (name) => {
              const found = known[Number(name) - 1];
              return (
                found && <GuaranteeVerdict found={found} site={site.id} state={pending.state} />
              );
            }
          : undefined
      }
    />
  );
}

function GuaranteeVerdict({
  found: { words, note, is, message, witness },
  site,
  state,
}: {
  found: Check['guarantees'][number];
  site: string;
  state: string;
}) {
  return (
    <>
      <div>
        {words}
        {note !== null && <span className={layout.quiet}> ({note})</span>}
      </div>
      {is === 'proved' ? (
        <div className={layout.quiet}>
          <span aria-hidden>✓</span> {message}
        </div>
      ) : (
        <div className={layout.refused}>
          <span aria-hidden>×</span> {message}{' '}
          {witness && <WitnessLink witness={witness} site={site} state={state} />}
        </div>
      )}
    </>
  );
}
