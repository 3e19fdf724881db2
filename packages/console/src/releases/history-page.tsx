import { Button } from 'antd';
import { useMutation, useQuery } from '@tanstack/react-query';
import { Link, useOutletContext } from 'react-router';
import { client } from '../client.ts';
import { Moment } from '../live/moment.tsx';
import { Failure, Waiting } from '../shell/notices.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import layout from '../style/layout.module.css';
import css from './releases.module.css';
import { Says } from './says.tsx';

/** The versions of the draft that are kept: when each was saved, what it changed, and a button that restores it. */
export function HistoryPage() {
  const { site, reload } = useOutletContext<SiteFrame>();
  const { version: current } = site.draft;
  const versions = useQuery({
    queryKey: ['draft versions', site.id, current],
    queryFn: () => client.draftVersions(site.id),
  });
  const restoring = useMutation({
    mutationFn: (version: number) => client.restoreDraft(site.id, current, version),
    onSettled: reload,
  });
  const base = `/sites/${site.id}`;
  return (
    <div className={layout.page}>
      <div className={layout.filters}>
        <h1>Draft history</h1>
        <span className={layout.quiet}>The last 200 versions are kept</span>
      </div>
      <p className={layout.said} role="status">
        {restoring.data &&
          `Version ${restoring.variables} is restored, as version ${restoring.data.version}.`}
      </p>
      {restoring.error && <Failure error={restoring.error} />}
      {versions.error ? (
        <Failure error={versions.error} retry={() => void versions.refetch()} />
      ) : versions.data ? (
        <ol className={css.list} aria-label="Versions" tabIndex={0}>
          {versions.data.map(({ version, savedAt, says, releases }) => (
            <li key={version}>
              <div className={css.head}>
                <strong>Version {version}</strong>
                {version === current && <span>the draft</span>}
                <Moment at={savedAt} />
                {releases.length > 0 && <span>released as {releases.join(', ')}</span>}
                <span className={layout.grow} />
                {version !== current && (
                  <>
                    <Link to={`${base}/releases/compare?before=draft&after=version-${version}`}>
                      Compare the draft with version {version}
                    </Link>
                    <Button
                      size="small"
                      disabled={restoring.isPending}
                      onClick={() => restoring.mutate(version)}
                    >
                      Restore version {version}
                    </Button>
                  </>
                )}
              </div>
              <Says says={says} />
            </li>
          ))}
        </ol>
      ) : (
        <Waiting what="the history" />
      )}
    </div>
  );
}
