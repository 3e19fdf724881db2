import { Select } from 'antd';
import { useQuery } from '@tanstack/react-query';
import { Link, useOutletContext } from 'react-router';
import type { GatewayInfo } from '@kleidon/client';
import { client } from '../client.ts';
import { EVERY_TEN_SECONDS } from '../query-client.ts';
import { Failure, Waiting } from '../shell/notices.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import { useAddressState } from '../use-address-state.ts';
import { Moment } from './moment.tsx';
import { TrafficPlot } from './traffic-plot.tsx';
import css from './live.module.css';
import layout from '../style/layout.module.css';

const HOURS: readonly (readonly [number, string])[] = [
  [1, 'the last hour'],
  [6, 'the last 6 hours'],
  [24, 'the last day'],
  [168, 'the last week'],
];

/** What is released, how the website does, and the requests by how they ended. */
export function NowView({ gateway }: { gateway: GatewayInfo }) {
  const { site } = useOutletContext<SiteFrame>();
  const { query, change } = useAddressState();
  const hours = Number(query.get('hours') ?? 1);
  const traffic = useQuery({
    queryKey: ['traffic', site.id, hours],
    queryFn: () => client.traffic(site.id, hours),
    refetchInterval: EVERY_TEN_SECONDS,
  });
  const { health, origin, provider, login, sessions, publicAddress } = gateway;
  return (
    <div className={css.live}>
      <dl className={css.facts}>
        <dt>Released</dt>
        <dd>
          {site.live ? (
            <>
              Release {site.live.number}, <Moment at={site.live.releasedAt} />
              {site.live.note && <span className={layout.quiet}> {site.live.note}</span>}
              {!site.draft.isLive && (
                <>
                  {' '}
                  <Link to={`/sites/${site.id}/file`}>The draft differs</Link>
                </>
              )}
            </>
          ) : (
            'Nothing yet: every request is answered with 503.'
          )}
        </dd>
        <dt>Website</dt>
        <dd>
          <span className={health.isUp ? css.up : css.down}>
            {health.isUp ? '✓ answers' : '× fails'}
          </span>{' '}
          with {health.says} in {health.took} ms <code className={layout.quiet}>{origin}</code>
        </dd>
        <dt>Sign-in</dt>
        <dd>
          {provider === null ? (
            login ? (
              'by the login of the website'
            ) : (
              'none here'
            )
          ) : (
            <>
              <code>{provider}</code>{' '}
              <a href={`${publicAddress}/.kleidon/test-sign-in`} target="_blank" rel="noreferrer">
                Test it <span className={layout.quiet}>(new tab)</span>
              </a>
            </>
          )}
        </dd>
        {login && (
          <>
            <dt>Login of the website</dt>
            <dd>
              <code>{login.by}</code>, by tokens;{' '}
              {login.last === null ? (
                'none was rejected'
              ) : (
                <>
                  {login.rejected} rejected, the last <Moment at={login.last.at} />:{' '}
                  {login.last.reason}
                </>
              )}
            </dd>
          </>
        )}
        <dt>Signed in</dt>
        <dd>
          <Link to={`/sites/${site.id}/live/sessions`}>
            {sessions === 1 ? '1 session' : `${sessions} sessions`}
          </Link>
        </dd>
      </dl>
      <div className={css.plotHead}>
        <h2>Requests by how they ended</h2>
        <Select
          aria-label="Time shown"
          popupMatchSelectWidth={false}
          value={hours}
          onChange={(next: number) => change({ hours: String(next) })}
          options={HOURS.map(([value, label]) => ({ value, label }))}
        />
      </div>
      {traffic.error && !traffic.data ? (
        <Failure error={traffic.error} retry={() => void traffic.refetch()} />
      ) : traffic.data ? (
        <TrafficPlot traffic={traffic.data} hours={hours} />
      ) : (
        <Waiting what="the requests" />
      )}
    </div>
  );
}
