import { Select } from 'antd';
import { NavLink, Outlet, useLocation, useNavigate, useParams } from 'react-router';
import type { Release, SiteSummary } from '@kleidon/client';
import { usePending, type Pending } from '../changes/use-pending.ts';
import { client } from '../client.ts';
import { useLoad } from '../use-load.ts';
import { LoadedPage } from './loaded-page.tsx';
import { Failure, Waiting } from './notices.tsx';
import type { Choice, Theme } from './theme.ts';

/** What every page of a site gets from the frame around it. */
export interface SiteFrame {
  readonly site: SiteSummary;
  readonly releases: readonly Release[];
  /** The pending changes of this browser. */
  readonly pending: Pending;
  reload(): void;
}

const PAGES = [
  ['', 'Reach grid'],
  ['/pages', 'Pages'],
  ['/gates', 'Gates'],
  ['/visitors', 'Visitors'],
  ['/addresses', 'Addresses'],
  ['/names', 'Names'],
  ['/site', 'Site'],
  ['/try', 'Try an address'],
  ['/live', 'Live'],
  ['/file', 'Site file'],
] as const;

/** The frame around every page of a site: which site, which state of it, and where to go. */
export function Shell({ theme }: { theme: Theme }) {
  const { site: id = '' } = useParams();
  const navigate = useNavigate();
  const { search } = useLocation();
  const loaded = useLoad(id, async () => ({
    sites: await client.sites(),
    releases: await client.releases(id),
  }));
  // What is there while another site is fetched is that of the one before.
  const site = loaded.isLoading ? undefined : loaded.value?.sites.find((one) => one.id === id);
  const pending = usePending(id, site?.draft.version);
  const state = new URLSearchParams(search).get('state');

  return (
    <div className="shell">
      <a className="skip" href="#main">
        Skip to the page
      </a>
      <header className="bar">
        <span className="brand">Kleidon</span>
        {loaded.value && (
          <Select
            aria-label="Site"
            value={id}
            popupMatchSelectWidth={false}
            options={loaded.value.sites.map((one) => ({ value: one.id, label: one.name }))}
            onChange={(next) => void navigate(`/sites/${next}`)}
          />
        )}
        <nav aria-label="Pages">
          {PAGES.map(([path, title]) => (
            <NavLink
              key={path}
              end={path === '' || path === '/pages'}
              to={{
                pathname: `/sites/${id}${path}`,
                search: state === null ? '' : `?state=${state}`,
              }}
            >
              {title}
            </NavLink>
          ))}
        </nav>
        <span className="grow" />
        {pending.count > 0 && (
          <NavLink
            className="pending"
            to={`/sites/${id}/changes`}
            aria-label={`${pending.count} pending ${pending.count === 1 ? 'change' : 'changes'}`}
          >
            {pending.count} pending
          </NavLink>
        )}
        {site && (
          <span className="quiet state" title={stateOf(site)}>
            {stateOf(site)}
          </span>
        )}
        <Select<Choice>
          aria-label="Colours"
          value={theme.choice}
          onChange={theme.choose}
          options={[
            { value: 'system', label: 'System colours' },
            { value: 'light', label: 'Light' },
            { value: 'dark', label: 'Dark' },
          ]}
        />
      </header>
      <main id="main" tabIndex={-1}>
        {loaded.error ? (
          <Failure error={loaded.error} retry={loaded.reload} />
        ) : site && loaded.value ? (
          <LoadedPage>
            <Outlet
              context={
                {
                  site,
                  releases: loaded.value.releases,
                  pending,
                  reload: loaded.reload,
                } satisfies SiteFrame
              }
            />
          </LoadedPage>
        ) : (
          <Waiting what="the site" />
        )}
      </main>
    </div>
  );
}

function stateOf({ draft, live }: SiteSummary): string {
  if (live === null) return `Draft ${draft.version}, nothing released yet`;
  return draft.isLive
    ? `Release ${live.number} is live`
    : `Release ${live.number} is live; draft ${draft.version} differs`;
}
