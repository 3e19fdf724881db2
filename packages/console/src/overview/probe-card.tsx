import { useQuery } from '@tanstack/react-query';
import { useOutletContext } from 'react-router';
import { differenceInWords } from '@kleidon/client';
import { client } from '../client.ts';
import { Moment } from '../live/moment.tsx';
import { probeQuery } from '../live/probe-query.ts';
import { Failure, Waiting } from '../shell/notices.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import { Card } from './card.tsx';
import layout from '../style/layout.module.css';

const SHOWN = 5;

/** Whether the website does what its rules say, as the service found by itself. */
export function ProbeCard() {
  const { site } = useOutletContext<SiteFrame>();
  const told = useQuery(probeQuery(site.id));
  const open = told.data?.open ?? 0;
  const differences = useQuery({
    queryKey: ['probe-differences', site.id, 'overview', told.data?.runs[0]?.number],
    queryFn: () => client.probeDifferences(site.id, { limit: SHOWN }),
    enabled: open > 0,
  });
  return (
    <Card title="The website, as probed" to={`/sites/${site.id}/live/probe`} more="The probe">
      {told.error && !told.data ? (
        <Failure error={told.error} retry={() => void told.refetch()} />
      ) : told.data === undefined ? (
        <Waiting what="the probe" />
      ) : (
        <>
          <Probed told={told.data} />
          <ul className={layout.plain}>
            {(open > 0 ? (differences.data?.differences ?? []) : []).map((one) => (
              <li key={`${one.kind} ${one.address} ${one.visitor}`}>
                <code>{one.address}</code> {one.visitor !== null && `as ${one.visitor}: `}
                {differenceInWords(one)}
              </li>
            ))}
          </ul>
        </>
      )}
    </Card>
  );
}

function Probed({
  told: { probe, runs, open },
}: {
  told: Awaited<ReturnType<typeof client.probe>>;
}) {
  const [last] = runs;
  if (!probe) return <p className={layout.quiet}>No probe is set up.</p>;
  if (!last)
    return (
      <p className={layout.quiet}>
        {probe.running ? 'The first run goes on.' : 'It was not probed yet.'}
      </p>
    );
  if (last.failure !== null)
    return (
      <p>
        × The last run failed, <Moment at={last.endedAt} />: {last.failure}
      </p>
    );
  return (
    <p>
      {open === 0
        ? '✓ It does what the rules say'
        : `× ${open === 1 ? '1 difference' : `${open} differences`} from the rules`}
      , <Moment at={last.endedAt} />
    </p>
  );
}
