import { useOutletContext, useParams } from 'react-router';
import { Nothing } from '../shell/notices.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import { EntriesPage } from './entries-page.tsx';
import { GatesPage } from './gates-page.tsx';
import type { Choices } from './choices.ts';
import { asText, entryOf } from './entry-value.ts';
import { NotFoundPreview } from './not-found-preview.tsx';
import { ReachedByView } from './reached-by.tsx';
import { GuaranteesPage } from './guarantees-page.tsx';
import { ACCESS, ADDRESSES, GATES, GUARANTEES, PRODUCTS, VISITORS } from './sections.ts';

/** Who is let in: gates, and what they name; parts and menus that depend on it, and where people land. */
export function AccessPage() {
  const { section: path } = useParams();
  const section = ACCESS.find((one) => one.section === path);
  if (path === GUARANTEES.section) return <GuaranteesPage />;
  if (section === GATES) return <GatesPage />;
  return section ? <EntriesPage key={section.section} section={section} /> : <Nothing />;
}

/** The visitors, with what each of them reaches. */
export function VisitorsPage() {
  const { site, pending } = useOutletContext<SiteFrame>();
  return (
    <EntriesPage
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

export { ExpectedVisitsPage } from './expected-visits-page.tsx';

/** What can be bought. */
export const ProductsPage = () => <EntriesPage section={PRODUCTS} />;

/** Where addresses lead that are no pages. */
export function AddressesPage() {
  const { section: path } = useParams();
  const section = ADDRESSES.find((one) => one.section === path);
  if (!section) return <Nothing />;
  return (
    <EntriesPage
      key={section.section}
      section={section}
      {...(path === 'not-found' ? { beneath: notFoundPreview } : {})}
    />
  );
}

const notFoundPreview = (_name: string, _choices: Choices, value: unknown) => {
  const under = asText(entryOf(value, 'not-found')['under']);
  return <NotFoundPreview key={under} under={under} />;
};
