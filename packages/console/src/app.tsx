import { lazy, type ComponentType } from 'react';
import { App as AntApp, ConfigProvider } from 'antd';
import { Route, Routes } from 'react-router';
import { Shell } from './shell/shell.tsx';
import { FirstSite } from './sites/first-site.tsx';
import { Nothing } from './shell/notices.tsx';
import { useTheme } from './shell/theme.ts';

/** A page that is loaded when someone goes there. */
function page<Name extends string, Props>(
  name: Name,
  load: () => Promise<Record<Name, ComponentType<Props>>>,
) {
  return lazy(async () => ({ default: (await load())[name] }));
}

const entryPages = () => import('./entries/entry-pages.tsx');
const GridPage = page('GridPage', () => import('./grid/grid-page.tsx'));
const PagesPage = page('PagesPage', () => import('./pages/pages-page.tsx'));
const GatesPage = page('GatesPage', entryPages);
const VisitorsPage = page('VisitorsPage', entryPages);
const NamesPage = page('NamesPage', entryPages);
const AddressesPage = page('AddressesPage', entryPages);
const SitePage = page('SitePage', entryPages);
const ChangesPage = page('ChangesPage', () => import('./changes/changes-page.tsx'));
const TryPage = page('TryPage', () => import('./try/try-page.tsx'));
const TryListPage = page('TryListPage', () => import('./try/list-page.tsx'));
const LivePage = page('LivePage', () => import('./live/live-page.tsx'));
const DraftPage = page('DraftPage', () => import('./draft/draft-page.tsx'));

/** The console: every page of it has an address. */
export function App() {
  const theme = useTheme();
  return (
    <ConfigProvider theme={theme.antd}>
      <AntApp>
        <Routes>
          <Route index element={<FirstSite />} />
          <Route path="sites/:site" element={<Shell theme={theme} />}>
            <Route index element={<GridPage />} />
            <Route path="pages" element={<PagesPage />} />
            <Route path="gates" element={<GatesPage />} />
            <Route path="visitors" element={<VisitorsPage />} />
            <Route path="names/:section?" element={<NamesPage />} />
            <Route path="addresses/:section?" element={<AddressesPage />} />
            <Route path="site/:section?" element={<SitePage />} />
            <Route path="changes" element={<ChangesPage />} />
            <Route path="try" element={<TryPage />} />
            <Route path="try/list" element={<TryListPage />} />
            <Route path="live/:view?" element={<LivePage />} />
            <Route path="file" element={<DraftPage isDark={theme.isDark} />} />
            <Route path="*" element={<Nothing />} />
          </Route>
          <Route path="*" element={<Nothing />} />
        </Routes>
      </AntApp>
    </ConfigProvider>
  );
}
