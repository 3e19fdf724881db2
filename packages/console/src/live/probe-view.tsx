import { Button } from 'antd';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useOutletContext } from 'react-router';
import { intervalInWords, type ProbeInfo, type ProbeRun } from '@kleidon/client';
import { client } from '../client.ts';
import { Failure, Waiting } from '../shell/notices.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import { Moment } from './moment.tsx';
import { ProbeDifferences } from './probe-differences.tsx';
import { probeQuery } from './probe-query.ts';
import { ProbeRuns } from './probe-runs.tsx';
import css from './live.module.css';
import layout from '../style/layout.module.css';

/** How the website does what its rules say, as the service finds by itself, visit by visit. */
export function ProbeView() {
  const { site } = useOutletContext<SiteFrame>();
  const told = useQuery(probeQuery(site.id));
  const begin = useMutation({
    mutationFn: () => client.beginProbe(site.id),
    onSuccess: () => told.refetch(),
  });
  if (told.error && !told.data)
    return <Failure error={told.error} retry={() => void told.refetch()} />;
  if (!told.data) return <Waiting what="the probe" />;
  const { probe, runs } = told.data;
  if (!probe) return <NoProbe site={site.id} />;
  const [last] = runs;
  return (
    <div className={css.live}>
      <dl className={css.facts}>
        <dt>Website</dt>
        <dd>
          <code>{probe.website}</code>
        </dd>
        <dt>Runs</dt>
        <dd>
          every {intervalInWords(probe.every)} and after each release; <Next probe={probe} />{' '}
          <Button
            size="small"
            disabled={probe.running !== null || site.live === null}
            loading={begin.isPending}
            onClick={() => begin.mutate()}
          >
            Probe now
          </Button>
        </dd>
        <dt>Last run</dt>
        <dd>{last ? <LastRun run={last} /> : 'none yet'}</dd>
        {probe.webhook && (
          <>
            <dt>Webhook</dt>
            <dd>
              <Told webhook={probe.webhook} />
            </dd>
          </>
        )}
      </dl>
      {begin.error && <Failure error={begin.error} />}
      <ProbeDifferences lastRun={last?.number ?? 0} />
      {runs.length > 1 && <ProbeRuns runs={runs} />}
    </div>
  );
}

function Next({ probe: { running, nextAt } }: { probe: ProbeInfo }) {
  if (running)
    return (
      <span role="status">
        {running.done === 0
          ? 'a run has begun.'
          : `a run goes on: ${running.done} of ${running.all} visits.`}
      </span>
    );
  if (nextAt === null) return <span>nothing is released yet.</span>;
  return (
    <>
      the next <Moment at={nextAt} />.
    </>
  );
}

function LastRun({ run }: { run: ProbeRun }) {
  const { failure, agreed, differed, pages, endedBy, release, endedAt, untried } = run;
  if (failure !== null)
    return (
      <>
        <span className={css.down}>× failed</span> <Moment at={endedAt} />: {failure}
      </>
    );
  const all = agreed + differed;
  return (
    <>
      <span className={differed === 0 ? css.up : css.down}>
        {differed === 0 ? '✓ agrees' : '× differs'}
      </span>{' '}
      {agreed} of {all === 1 ? '1 visit' : `${all} visits`} as release {release} says,{' '}
      <Moment at={endedAt} />
      {pages !== null && <>; {pages === 1 ? '1 page' : `${pages} pages`} found on the website</>}
      {endedBy !== null && <p>The search for pages ended before its end: {endedBy}</p>}
      {untried.map(({ visitor, because }) => (
        <p key={visitor}>
          <span aria-hidden>! </span>
          <strong>{visitor}</strong> was not tried: {because}
        </p>
      ))}
    </>
  );
}

function Told({ webhook }: { webhook: NonNullable<ProbeInfo['webhook']> }) {
  const { address, waiting, last } = webhook;
  return (
    <>
      <code>{address}</code>{' '}
      {last === null ? (
        'was told nothing yet'
      ) : last.deliveredAt === null ? (
        <>
          <span className={css.down}>× was not told</span> at the last attempt:{' '}
          {last.answer ?? 'not tried yet'}
          {last.nextAt !== null && (
            <>
              ; the next <Moment at={last.nextAt} />
            </>
          )}
        </>
      ) : (
        <>
          was told <Moment at={last.deliveredAt} />
        </>
      )}
      {waiting > 1 && `; ${waiting} messages are to be delivered`}
    </>
  );
}

function NoProbe({ site }: { site: string }) {
  return (
    <div className={layout.notice}>
      <p>
        No probe is set up for this site: whether the website does what the rules say is not looked
        at by itself.
      </p>
      <p>
        Name one in the file of settings, and start the service with <code>--settings FILE</code>:
      </p>
      <pre>{`probes:
  - site: ${site}
    every: 6h
    website: https://www.example.org # that of the gateway, if not said`}</pre>
    </div>
  );
}
