import type { ComponentType } from 'react';
import { ConfigProvider } from 'antd';
import { Navigate, Route, Routes } from 'react-router';
import { Shell } from './shell/shell.tsx';
import { FirstSite } from './sites/first-site.tsx';
import { Nothing, Waiting } from './shell/notices.tsx';
import { useTheme } from './shell/theme.ts';
import { onDemand } from './shell/on-demand.ts';

/** A page that is loaded when someone goes there. */
const page = <Name extends string, Props extends object>(
  name: Name,
  load: () => Promise<Record<Name, ComponentType<Props>>>,
) =>
  onDemand(
    name,
    async () => (await load())[name],
    () => <Waiting what="the page" />,
  );

const entryPages = () => import('./entries/entry-pages.tsx');
const GridPage = page('GridPage', () => import('./reach/grid-page.tsx'));
const KindsPage = page('KindsPage', () => import('./reach/kinds-page.tsx'));
const PagesPage = page('PagesPage', () => import('./pages/pages-page.tsx'));
const AccessPage = page('AccessPage', entryPages);
const AddressesPage = page('AddressesPage', entryPages);
const ExpectedVisitsPage = page('ExpectedVisitsPage', entryPages);
const VisitorsPage = page('VisitorsPage', entryPages);
const ProductsPage = page('ProductsPage', entryPages);
const PurchasesPage = page('PurchasesPage', () => import('./purchases/purchases-page.tsx'));
const BuyersPage = page('BuyersPage', () => import('./purchases/buyers-page.tsx'));
const EventsPage = page('EventsPage', () => import('./purchases/events-page.tsx'));
const RedirectsPage = page('RedirectsPage', () => import('./redirects/redirects-page.tsx'));
const ListsPage = page('ListsPage', () => import('./redirects/lists-page.tsx'));
const SiteSettings = page('SiteSettings', () => import('./entries/site-settings.tsx'));
const DeleteSite = page('DeleteSite', () => import('./sites/delete-site.tsx'));
const OverviewPage = page('OverviewPage', () => import('./overview/overview-page.tsx'));
const ReviewPage = page('ReviewPage', () => import('./review/review-page.tsx'));
const TryPage = page('TryPage', () => import('./reach/try-page.tsx'));
const TryListPage = page('TryListPage', () => import('./reach/list-page.tsx'));
const ReleasesPage = page('ReleasesPage', () => import('./releases/releases-page.tsx'));
const ComparePage = page('ComparePage', () => import('./releases/compare-page.tsx'));
const HistoryPage = page('HistoryPage', () => import('./releases/history-page.tsx'));
const LivePage = page('LivePage', () => import('./live/live-page.tsx'));
const DraftPage = page('DraftPage', () => import('./draft/draft-page.tsx'));

/** The console: every page of it has an address. */
export function App() {
  const theme = useTheme();
  return (
    <ConfigProvider theme={theme.antd}>
      <Routes>
        <Route index element={<FirstSite />} />
        <Route path="sites/:site" element={<Shell theme={theme} />}>
          <Route index element={<OverviewPage />} />
          <Route path="reach" element={<GridPage />} />
          <Route path="reach/kinds" element={<KindsPage />} />
          <Route path="reach/address" element={<TryPage />} />
          <Route path="reach/list" element={<TryListPage />} />
          <Route path="reach/expected" element={<ExpectedVisitsPage />} />
          <Route path="pages" element={<PagesPage />} />
          <Route path="access" element={<Navigate replace to="gates" />} />
          <Route path="access/:section" element={<AccessPage />} />
          <Route path="addresses" element={<Navigate replace to="redirects" />} />
          <Route path="addresses/redirects" element={<RedirectsPage />} />
          <Route path="addresses/lists" element={<ListsPage />} />
          <Route path="addresses/:section" element={<AddressesPage />} />
          <Route path="visitors" element={<VisitorsPage />} />
          <Route path="visitors/products" element={<ProductsPage />} />
          <Route path="visitors/purchases" element={<PurchasesPage />} />
          <Route path="visitors/buyers" element={<BuyersPage />} />
          <Route path="visitors/events" element={<EventsPage />} />
          <Route path="live/:view?" element={<LivePage />} />
          <Route path="releases" element={<ReleasesPage />} />
          <Route path="releases/compare" element={<ComparePage />} />
          <Route path="releases/history" element={<HistoryPage />} />
          <Route path="file" element={<DraftPage isDark={theme.isDark} />} />
          <Route path="file/settings" element={<SiteSettings />} />
          <Route path="file/deletion" element={<DeleteSite />} />
          <Route path="review" element={<ReviewPage />} />
          <Route path="*" element={<Nothing />} />
        </Route>
        <Route path="*" element={<Nothing />} />
      </Routes>
    </ConfigProvider>
  );
}
