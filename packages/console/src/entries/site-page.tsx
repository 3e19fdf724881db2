import type { ReactNode } from 'react';
import { SectionTabs } from './section-tabs.tsx';

interface Props {
  readonly tabs: readonly (readonly [string, string])[];
  readonly children: ReactNode;
}

/** One of the pages about the site as a whole, below their common head. */
export function SitePage({ tabs, children }: Props) {
  return (
    <div className="page">
      <div className="filters">
        <h1>Site</h1>
        <SectionTabs label="Site" tabs={tabs} />
      </div>
      {children}
    </div>
  );
}
