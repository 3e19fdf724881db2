import { Button } from 'antd';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useOutletContext } from 'react-router';
import { client } from '../client.ts';
import { Moment } from '../live/moment.tsx';
import { Failure, Waiting } from '../shell/notices.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import layout from '../style/layout.module.css';
import { scheduledQuery } from './scheduled-query.ts';

/** The release that takes effect at a set time, which can be cancelled; nothing where there is none. */
export function ScheduledRelease() {
  const { site } = useOutletContext<SiteFrame>();
  const scheduled = useQuery(scheduledQuery(site.id));
  const cancelling = useMutation({
    mutationFn: () => client.cancelScheduledRelease(site.id),
    onSettled: () => scheduled.refetch(),
  });
  if (scheduled.error) return <Failure error={scheduled.error} />;
  if (scheduled.isPending) return <Waiting what="the scheduled release" />;
  const { data } = scheduled;
  if (data === null)
    return cancelling.isSuccess ? (
      <p className={layout.said} role="status">
        The scheduled release is cancelled.
      </p>
    ) : null;
  return (
    <section className={layout.filters} aria-label="Scheduled release">
      <span>
        <strong>Scheduled:</strong> version {data.draftVersion} of the draft is released on{' '}
        <Moment at={data.takesEffectAt} />: {data.note}
      </span>
      <Button disabled={cancelling.isPending} onClick={() => cancelling.mutate()}>
        Cancel this release
      </Button>
      {cancelling.error && <Failure error={cancelling.error} />}
    </section>
  );
}
