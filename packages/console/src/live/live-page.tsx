import { useQuery } from '@tanstack/react-query';
import { useOutletContext, useParams } from 'react-router';
import type { GatewayInfo } from '@kleidon/client';
import { client } from '../client.ts';
import { EVERY_TEN_SECONDS } from '../query-client.ts';
import { Failure, Nothing, Waiting } from '../shell/notices.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import { MissesView } from './misses-view.tsx';
import { NowView } from './now-view.tsx';
import { ProbeView } from './probe-view.tsx';
import { SessionsView } from './sessions-view.tsx';
import { UsesView } from './uses-view.tsx';
import layout from '../style/layout.module.css';

const TITLES = {
  now: 'Live',
  misses: 'Missing addresses',
  redirects: 'Redirects in use',
  sessions: 'Sessions',
  probe: 'Probe',
};
type View = keyof typeof TITLES;

/** What happens at a website: at its gateway, and when it is probed. */
export function LivePage() {
  const { site } = useOutletContext<SiteFrame>();
  const { view = 'now' } = useParams();
  const gateway = useQuery({
    queryKey: ['gateway', site.id],
    queryFn: () => client.gateway(site.id),
    refetchInterval: EVERY_TEN_SECONDS,
  });
  if (!(view in TITLES)) return <Nothing />;
  if (gateway.error && !gateway.data)
    return <Failure error={gateway.error} retry={() => void gateway.refetch()} />;
  if (!gateway.data) return <Waiting what="the gateway" />;
  const running = gateway.data.gateway;
  return (
    <div className={layout.page}>
      <div className={layout.filters}>
        <h1>{TITLES[view as View]}</h1>
        {running && (
          <a href={running.publicAddress} target="_blank" rel="noreferrer">
            {running.publicAddress} <span className={layout.quiet}>(new tab)</span>
          </a>
        )}
      </div>
      {view === 'probe' ? (
        <ProbeView />
      ) : running ? (
        <Shown view={view as Exclude<View, 'probe'>} gateway={running} />
      ) : (
        <NoGateway site={site.id} />
      )}
    </div>
  );
}

function Shown({ view, gateway }: { view: Exclude<View, 'probe'>; gateway: GatewayInfo }) {
  switch (view) {
    case 'misses':
      return <MissesView />;
    case 'redirects':
      return <UsesView />;
    case 'sessions':
      return <SessionsView gateway={gateway} />;
    case 'now':
      return <NowView gateway={gateway} />;
  }
}

function NoGateway({ site }: { site: string }) {
  return (
    <div className={layout.notice}>
      <p>No gateway runs for this site, so that nobody is let in or sent on by its rules yet.</p>
      <p>
        Name one in a file of settings, and start the service with <code>--settings FILE</code>:
      </p>
      <pre>{`gateways:
  - site: ${site}
    port: 8080
    origin: http://127.0.0.1:9000 # where the website is`}</pre>
    </div>
  );
}
