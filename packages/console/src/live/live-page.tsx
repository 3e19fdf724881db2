import { useOutletContext, useParams } from 'react-router';
import type { GatewayInfo } from '@kleidon/client';
import { client } from '../client.ts';
import { SectionTabs } from '../entries/section-tabs.tsx';
import { Failure, Nothing, Waiting } from '../shell/notices.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import { useLoad } from '../use-load.ts';
import { MissesView } from './misses-view.tsx';
import { NowView } from './now-view.tsx';
import { SessionsView } from './sessions-view.tsx';
import { usePolling } from './use-polling.ts';
import { UsesView } from './uses-view.tsx';

const VIEWS = { now: 'Now', misses: 'Misses', redirects: 'Redirects in use', sessions: 'Sessions' };
type View = keyof typeof VIEWS;

/** What happens at the gateway of a site: requests, what is not found, which redirects are in use, who is signed in. */
export function LivePage() {
  const { site } = useOutletContext<SiteFrame>();
  const { view = 'now' } = useParams();
  const gateway = useLoad(site.id, () => client.gateway(site.id));
  usePolling(gateway.reload);
  if (!(view in VIEWS)) return <Nothing />;
  if (gateway.error && !gateway.value)
    return <Failure error={gateway.error} retry={gateway.reload} />;
  if (!gateway.value) return <Waiting what="the gateway" />;
  const base = `/sites/${site.id}/live`;
  const running = gateway.value.gateway;
  return (
    <div className="page">
      <div className="filters">
        <h1>Live</h1>
        <SectionTabs
          label="Live"
          tabs={Object.entries(VIEWS).map(([name, title]) => [
            name === 'now' ? base : `${base}/${name}`,
            title,
          ])}
        />
        {running && (
          <a href={running.publicAddress} target="_blank" rel="noreferrer">
            {running.publicAddress} <span className="quiet">(new tab)</span>
          </a>
        )}
      </div>
      {running ? <Shown view={view as View} gateway={running} /> : <NoGateway site={site.id} />}
    </div>
  );
}

function Shown({ view, gateway }: { view: View; gateway: GatewayInfo }) {
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
    <div className="notice">
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
