import { useQuery } from '@tanstack/react-query';
import { useOutletContext } from 'react-router';
import { findingsQuery } from '../changes/findings-query.ts';
import type { SiteFrame } from '../shell/shell.tsx';
import { EntriesPage } from './entries-page.tsx';
import { EXPECTED_VISITS } from './sections.ts';
import { ToldEntry } from './told-entry.tsx';

/** The visits that must end as they say, as they end with the pending changes. */
export function ExpectedVisitsPage() {
  const { site, pending } = useOutletContext<SiteFrame>();
  const check = useQuery(findingsQuery(site.id, pending));
  const known = check.data?.errors.length === 0 ? check.data.visits : null;
  return (
    <EntriesPage
      section={EXPECTED_VISITS}
      sentence={
        known
          ? (name) => {
              const made = known[Number(name) - 1];
              return made && <ToldEntry {...made} isRight={made.isAsExpected} />;
            }
          : undefined
      }
    />
  );
}
