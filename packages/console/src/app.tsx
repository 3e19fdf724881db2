import { App as AntApp, ConfigProvider } from 'antd';
import { Route, Routes } from 'react-router';
import { ChangesPage } from './changes/changes-page.tsx';
import { DraftPage } from './draft/draft-page.tsx';
import {
  AddressesPage,
  GatesPage,
  NamesPage,
  SitePage,
  VisitorsPage,
} from './entries/entry-pages.tsx';
import { GridPage } from './grid/grid-page.tsx';
import { LivePage } from './live/live-page.tsx';
import { Shell } from './shell/shell.tsx';
import { PagesPage } from './pages/pages-page.tsx';
import { FirstSite } from './sites/first-site.tsx';
import { TryListPage } from './try/list-page.tsx';
import { TryPage } from './try/try-page.tsx';
import { Nothing } from './shell/notices.tsx';
import { useTheme } from './shell/theme.ts';

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
