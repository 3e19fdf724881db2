import type { ReactNode } from 'react';
import { Navigate, useLocation, useOutletContext, useParams } from 'react-router';
import { ListsPage } from '../redirects/lists-page.tsx';
import { RedirectsPage } from '../redirects/redirects-page.tsx';
import { Nothing } from '../shell/notices.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import { EntriesPage } from './entries-page.tsx';
import type { Choices } from './choices.ts';
import { asText, entryOf } from './entry-value.ts';
import { NotFoundPreview } from './not-found-preview.tsx';
import { ReachedByView } from './reached-by.tsx';
import { ADDRESSES, GATES, IN_SITE, NAMES, VISITORS, type Section } from './sections.ts';
import { DeleteSite } from '../sites/delete-site.tsx';
import { SiteSettings } from './site-settings.tsx';

/** The gates: whom each admits, and what happens to everyone else. */
export const GatesPage = () => <EntriesPage title="Gates" section={GATES} />;

/** The visitors, with what each of them reaches. */
export function VisitorsPage() {
  const { site, pending } = useOutletContext<SiteFrame>();
  return (
    <EntriesPage
      title="Visitors"
      section={VISITORS}
      beneath={(visitor) => (
        <ReachedByView
          site={site.id}
          state={pending.state}
          visitor={visitor}
          version={pending.key}
        />
      )}
    />
  );
}

/** What rules name: roles, groups, products and audiences. */
export function NamesPage() {
  const { site, section } = useParams();
  return <Shared title="Names" base={`/sites/${site}/names`} sections={NAMES} path={section} />;
}

/** Where addresses lead that are no pages. */
export function AddressesPage() {
  const { site, section } = useParams();
  const { search } = useLocation();
  const base = `/sites/${site}/addresses`;
  if (section === undefined) return <Navigate replace to={`${base}/redirects${search}`} />;
  const [redirects, ...others] = tabsOf(base, ADDRESSES);
  const tabs = [redirects!, [`${base}/lists`, 'Lists'] as const, ...others];
  if (section === 'redirects') return <RedirectsPage tabs={tabs} />;
  if (section === 'lists') return <ListsPage tabs={tabs} />;
  return (
    <Shared
      title="Addresses"
      base={base}
      sections={ADDRESSES}
      path={section}
      tabs={tabs}
      beneath={section === 'not-found' ? notFoundPreview : undefined}
    />
  );
}

const notFoundPreview = (value: unknown) => {
  const under = asText(entryOf(value, 'not-found')['under']);
  return <NotFoundPreview key={under} under={under} />;
};

/** The settings of the site, and what concerns it as a whole. */
export function SitePage() {
  const { site, section } = useParams();
  const base = `/sites/${site}/site`;
  const first = [base, 'Settings'] as const;
  const last = [`${base}/deletion`, 'Deletion'] as const;
  const tabs = [first, ...tabsOf(base, IN_SITE), last];
  if (section === undefined) return <SiteSettings tabs={tabs} />;
  if (section === 'deletion') return <DeleteSite tabs={tabs} />;
  return <Shared title="Site" base={base} sections={IN_SITE} path={section} tabs={tabs} />;
}

type Tabs = readonly (readonly [string, string])[];

const tabsOf = (base: string, sections: readonly Section[]): Tabs =>
  sections.map(({ section, title }) => [`${base}/${section}`, title]);

function Shared({
  title,
  base,
  sections,
  path = sections[0]!.section,
  tabs = tabsOf(base, sections),
  beneath,
}: {
  title: string;
  base: string;
  sections: readonly Section[];
  path: string | undefined;
  tabs?: Tabs;
  beneath?: ((value: unknown) => ReactNode) | undefined;
}) {
  const section = sections.find((one) => one.section === path);
  return section ? (
    <EntriesPage
      key={section.section}
      title={title}
      section={section}
      tabs={tabs}
      {...(beneath ? { beneath: (_: string, __: Choices, value: unknown) => beneath(value) } : {})}
    />
  ) : (
    <Nothing />
  );
}
