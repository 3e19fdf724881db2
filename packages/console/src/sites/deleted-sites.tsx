import { useState } from 'react';
import { Button } from 'antd';
import { useQuery } from '@tanstack/react-query';
import { Link, useNavigate } from 'react-router';
import type { RestoredSite, ScheduledRelease } from '@kleidon/client';
import { client } from '../client.ts';
import { MOMENT } from '../live/in-zone.ts';
import { Failure } from '../shell/notices.tsx';
import layout from '../style/layout.module.css';

/** The sites that were deleted and can be taken back; `none` is said where there are none. */
export function DeletedSites({ none = '' }: { none?: string }) {
  const deleted = useQuery({
    queryKey: ['deleted sites'],
    queryFn: () => client.deletedSites(),
  });
  const [failure, setFailure] = useState<Error | null>(null);
  const [told, setTold] = useState<RestoredSite | null>(null);
  const navigate = useNavigate();
  const restore = (site: string): void => {
    client.restoreSite(site).then(
      (restored) => {
        if (restored.cancelled === null) return void navigate(`/sites/${site}`);
        setTold(restored);
        void deleted.refetch();
      },
      (error: unknown) => setFailure(error as Error),
    );
  };
  if (deleted.error) return <Failure error={deleted.error} retry={() => void deleted.refetch()} />;
  if (!deleted.data) return null;
  if (told?.cancelled) return <Cancelled site={told.site.name} release={told.cancelled} />;
  if (deleted.data.length === 0) return none === '' ? null : <p className={layout.quiet}>{none}</p>;
  return (
    <section aria-label="Deleted sites">
      <h2>Deleted sites</h2>
      <ul className={layout.plain}>
        {deleted.data.map(({ id, deletedAt, keptUntil }) => (
          <li key={id}>
            <code>{id}</code>, deleted on {deletedAt.slice(0, 10)}, kept until{' '}
            {keptUntil.slice(0, 10)}{' '}
            <Button size="small" onClick={() => restore(id)}>
              Restore {id}
            </Button>
          </li>
        ))}
      </ul>
      {failure && <Failure error={failure} />}
    </section>
  );
}

/** Stands in place of the list, so that nobody misses it on the way to the site. */
function Cancelled({ site, release }: { site: string; release: ScheduledRelease }) {
  const { draftVersion, takesEffectAt, note } = release;
  return (
    <p role="status">
      {site} is restored. The release of draft version {draftVersion} was scheduled for{' '}
      <time dateTime={takesEffectAt}>{MOMENT.format(new Date(takesEffectAt))}</time>, when the site
      was deleted, and is cancelled: {note}. <Link to={`/sites/${release.site}`}>Open {site}</Link>
    </p>
  );
}
