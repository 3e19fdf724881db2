import { useCallback, useEffect, useState } from 'react';
import { Button, Select } from 'antd';
import { useQuery } from '@tanstack/react-query';
import { Link, NavLink, Outlet, useLocation, useNavigate, useParams } from 'react-router';
import { ServiceProblem, type Release, type SiteSummary } from '@kleidon/client';
import { usePending, type Pending } from '../changes/use-pending.ts';
import { client } from '../client.ts';
import { keepFocus } from './keep-focus.ts';
import { LoadedPage } from './loaded-page.tsx';
import { TASKS, taskAt, titleAt, type PageLink } from '../navigation.ts';
import { Failure, Waiting } from './notices.tsx';
import type { SearchDialogProps } from '../search/search-dialog.tsx';
import { TypedBefore } from '../search/typed-before.tsx';
import { onDemand } from './on-demand.ts';
import type { Choice, Theme } from './theme.ts';
import { clsx } from 'clsx';
import layout from '../style/layout.module.css';
import css from './shell.module.css';

/** What every page of a site gets from the frame around it. */
export interface SiteFrame {
  readonly site: SiteSummary;
  readonly releases: readonly Release[];
  /** The pending changes of this browser. */
  readonly pending: Pending;
  reload(): void;
}

/** What is typed before it has loaded is kept. */
const SearchDialog = onDemand<SearchDialogProps & { onType: (key: string) => void }>(
  'SearchDialog',
  async () => (await import('../search/search-dialog.tsx')).SearchDialog,
  ({ onType }) => <TypedBefore onType={onType} />,
);

/** The frame around every page of a site: which site, which state of it, and where to go. */
export function Shell({ theme }: { theme: Theme }) {
  const { site: id = '' } = useParams();
  const navigate = useNavigate();
  const { pathname, search } = useLocation();
  const loaded = useQuery({
    queryKey: ['site', id],
    queryFn: async () => ({ sites: await client.sites(), releases: await client.releases(id) }),
  });
  // What is there while another site is fetched is that of the one before.
  const site = loaded.isPlaceholderData
    ? undefined
    : loaded.data?.sites.find((one) => one.id === id);
  const pending = usePending(id, site?.draft.version);
  const state = new URLSearchParams(search).get('state');
  const { refetch } = loaded;
  const reload = useCallback(() => void refetch(), [refetch]);
  // Somebody else may have saved since the page before was opened.
  useEffect(reload, [reload, pathname]);
  useEffect(keepFocus, []);

  const base = `/sites/${id}`;
  const path = decodeURI(pathname).slice(base.length).replace(/\/$/, '');
  const task = taskAt(path);
  const title = [titleAt(path), site?.name ?? id, 'Kleidon'].join(' · ');
  useEffect(() => {
    document.title = title;
  }, [title]);
  const to = ([path]: PageLink) => ({
    pathname: `${base}${path}`,
    search: state === null ? '' : `?state=${state}`,
  });

  return (
    <div className={css.shell}>
      <a className={css.skip} href="#main">
        Skip to the page
      </a>
      <header className={css.bar}>
        <span className={css.brand}>Kleidon</span>
        {loaded.data && (
          <Select
            aria-label="Site"
            value={id}
            popupMatchSelectWidth={false}
            options={loaded.data.sites.map((one) => ({ value: one.id, label: one.name }))}
            onChange={(next) => void navigate(`/sites/${next}`)}
          />
        )}
        <nav aria-label="Tasks">
          {TASKS.map((one) => (
            <Link
              key={one.title}
              to={to(one.pages[0])}
              aria-current={one === task ? (one.pages.length > 1 ? true : 'page') : undefined}
            >
              {one.title}
            </Link>
          ))}
        </nav>
        <span className={layout.grow} />
        {site && <Search site={id} pending={pending} />}
        {site && <ReviewLink site={site} pending={pending} />}
        <Select<Choice>
          aria-label="Colours"
          value={theme.choice}
          onChange={theme.choose}
          popupMatchSelectWidth={false}
          options={[
            { value: 'system', label: 'System' },
            { value: 'light', label: 'Light' },
            { value: 'dark', label: 'Dark' },
          ]}
        />
      </header>
      {task && task.pages.length > 1 && (
        <nav className={css.tabs} aria-label={task.title}>
          {task.pages.map((page) => (
            <NavLink key={page[0]} end to={to(page)}>
              {page[1]}
            </NavLink>
          ))}
        </nav>
      )}
      <main id="main" tabIndex={-1}>
        {loaded.error && (!site || loaded.error instanceof ServiceProblem) ? (
          <Failure error={loaded.error} retry={reload} />
        ) : site && loaded.data ? (
          <LoadedPage>
            <Outlet
              context={
                { site, releases: loaded.data.releases, pending, reload } satisfies SiteFrame
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

/** Opens with Ctrl-K, or Cmd-K, from everywhere. */
function Search({ site, pending }: { site: string; pending: Pending }) {
  const [isOpen, setIsOpen] = useState(false);
  const [typed, setTyped] = useState('');
  const type = useCallback((key: string) => setTyped((before) => before + key), []);
  const close = (): void => {
    setIsOpen(false);
    setTyped('');
  };
  useEffect(() => {
    const openOnKey = (event: KeyboardEvent): void => {
      if (event.key !== 'k' || !(event.ctrlKey || event.metaKey)) return;
      event.preventDefault();
      setIsOpen(true);
    };
    window.addEventListener('keydown', openOnKey);
    return () => window.removeEventListener('keydown', openOnKey);
  }, []);
  return (
    <>
      <Button onClick={() => setIsOpen(true)} title="Ctrl-K" aria-keyshortcuts="Control+K Meta+K">
        Search
      </Button>
      {isOpen && (
        <SearchDialog onType={type} site={site} pending={pending} typed={typed} onClose={close} />
      )}
    </>
  );
}

/** What is not live yet, and the way to it: pending changes first, then a draft that differs. */
function ReviewLink({
  site: { id, draft, live },
  pending: { count },
}: Pick<SiteFrame, 'site' | 'pending'>) {
  if (count > 0)
    return (
      <NavLink
        className={clsx(css.pending)}
        to={`/sites/${id}/review`}
        aria-label={`${count} pending ${count === 1 ? 'change' : 'changes'}`}
      >
        {count} pending
      </NavLink>
    );
  if (draft.isLive)
    return (
      <NavLink className={clsx(layout.quiet, css.state)} to={`/sites/${id}/review`}>
        Release {live?.number} is live
      </NavLink>
    );
  return (
    <NavLink className={clsx(css.pending)} to={`/sites/${id}/review`}>
      Draft not released
    </NavLink>
  );
}
