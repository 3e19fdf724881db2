import { useQuery } from '@tanstack/react-query';
import { useOutletContext } from 'react-router';
import { findingsQuery } from '../changes/findings-query.ts';
import type { SiteFrame } from '../shell/shell.tsx';
import { WitnessLink } from '../visit/witness-link.tsx';
import { EntriesPage } from './entries-page.tsx';
import { GUARANTEES } from './sections.ts';
import { ToldEntry } from './told-entry.tsx';

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
                found && (
                  <ToldEntry {...found} isRight={found.is === 'proved'}>
                    {found.witness && (
                      <WitnessLink witness={found.witness} site={site.id} state={pending.state} />
                    )}
                  </ToldEntry>
                )
              );
            }
          : undefined
      }
    />
  );
}
