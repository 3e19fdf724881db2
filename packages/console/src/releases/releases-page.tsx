import { Link, useOutletContext } from 'react-router';
import { Moment } from '../live/moment.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import layout from '../style/layout.module.css';
import css from './releases.module.css';
import { Says } from './says.tsx';
import { ScheduledRelease } from './scheduled-release.tsx';

/** The releases of a site, what each changed for whom, and the one that is to be. */
export function ReleasesPage() {
  const { site, releases } = useOutletContext<SiteFrame>();
  const base = `/sites/${site.id}`;
  return (
    <div className={layout.page}>
      <div className={layout.filters}>
        <h1>Releases</h1>
        <span className={layout.quiet}>
          {releases.length === 0
            ? 'Nothing is released yet'
            : `Release ${releases[0]!.number} is live`}
        </span>
        <span className={layout.grow} />
        <Link to={`${base}/review`}>Review and release</Link>
      </div>
      <ScheduledRelease />
      <ol className={css.list} aria-label="Releases" tabIndex={0}>
        {releases.map((release, i) => {
          const { number, note, override, releasedAt, restores, scheduledFor, says } = release;
          const earlier = releases[i + 1]?.number;
          return (
            <li key={number}>
              <div className={css.head}>
                <strong>Release {number}</strong>
                {i === 0 && <span>live</span>}
                <Moment at={releasedAt} />
                {restores !== null && <span>release {restores} again</span>}
                {scheduledFor !== null && <span>at the time set for it</span>}
                <span className={layout.grow} />
                <Link to={`${base}/file?state=${number}`}>Site file of release {number}</Link>
                {earlier !== undefined && (
                  <Link to={`${base}/releases/compare?before=${earlier}&after=${number}`}>
                    What release {number} changed
                  </Link>
                )}
                {i > 0 && (
                  <Link to={`${base}/releases/compare?before=live&after=${number}`}>
                    Restore release {number} …
                  </Link>
                )}
              </div>
              <div>{note}</div>
              {override !== null && (
                <div>
                  <strong className={layout.refused}>Although it breaks guarantees:</strong>{' '}
                  {override}
                </div>
              )}
              <Says says={says} />
            </li>
          );
        })}
      </ol>
    </div>
  );
}
