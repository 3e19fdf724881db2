import { clsx } from 'clsx';
import { useQuery } from '@tanstack/react-query';
import { Link, useNavigate, useOutletContext } from 'react-router';
import { Button, Input } from 'antd';
import { useState } from 'react';
import type { Check } from '@kleidon/client';
import { FindingList } from '../changes/finding-list.tsx';
import { findingsQuery } from '../changes/findings-query.ts';
import { client } from '../client.ts';
import { Moment } from '../live/moment.tsx';
import { ErrorLines, Failure, Waiting } from '../shell/notices.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import { Card } from './card.tsx';
import { ProbeCard } from './probe-card.tsx';
import { PurchasesCard } from './purchases-card.tsx';
import css from './overview.module.css';
import layout from '../style/layout.module.css';
import { BrokenGuarantees } from '../visit/broken-guarantees.tsx';

const SHOWN = 5;

/** Where a site stands: what is live, what is pending, what looks wrong, what was not found, what changed last. */
export function OverviewPage() {
  const { site, releases } = useOutletContext<SiteFrame>();
  const base = `/sites/${site.id}`;
  return (
    <div className={layout.page}>
      <div className={layout.filters}>
        <h1>{site.name}</h1>
        <AddressForm base={base} />
      </div>
      <div className={css.cards}>
        <TasksCard base={base} />
        <LiveCard />
        <FindingsCard />
        <MissesCard />
        <ProbeCard />
        <PurchasesCard />
        <Card title="Last releases" to={`${base}/releases`} more="All releases">
          {releases.length === 0 ? (
            <p className={layout.quiet}>Nothing is released yet.</p>
          ) : (
            <ul className={layout.plain}>
              {releases.slice(0, SHOWN).map(({ number, releasedAt, note }) => (
                <li key={number}>
                  <Link to={`${base}/file?state=${number}`}>Release {number}</Link>,{' '}
                  <Moment at={releasedAt} />
                  {note && `: ${note}`}
                </li>
              ))}
            </ul>
          )}
        </Card>
      </div>
    </div>
  );
}

const COMMON_TASKS: readonly (readonly [to: string, task: string])[] = [
  ['/reach', 'See which visitor reaches which page'],
  ['/reach/address', 'Try an address as someone else'],
  ['/pages?new=yes', 'Add a page'],
  ['/access/gates?new=yes', 'Close a page or a section'],
  ['/access/landings', 'Choose where people land after signing in or out'],
  ['/access/menus', 'See menus, and hide what leads nowhere'],
  ['/addresses/redirects?new=yes', 'Redirect an old address'],
  ['/addresses/not-found', 'Say what is shown where nothing is found'],
  ['/visitors/purchases', 'Sell access: products, and who bought what'],
  ['/file/settings', 'Set what holds where no gate stands, and how addresses are written'],
];

function TasksCard({ base }: { base: string }) {
  return (
    <section className={css.card} aria-label="What to do">
      <h2>What to do</h2>
      <ul className={clsx(layout.plain, css.tasks)}>
        {COMMON_TASKS.map(([to, task]) => (
          <li key={to}>
            <Link to={`${base}${to}`}>{task}</Link>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** The question that is asked most: what happens at an address. */
function AddressForm({ base }: { base: string }) {
  const [address, setAddress] = useState('');
  const navigate = useNavigate();
  return (
    <form
      className={css.addressForm}
      onSubmit={(event) => {
        event.preventDefault();
        const query = new URLSearchParams({ address: address.trim() || '/' });
        void navigate(`${base}/reach/address?${query.toString()}`);
      }}
    >
      <Input
        className={layout.code}
        aria-label="Address to try"
        placeholder="/an/address"
        value={address}
        onChange={({ target }) => setAddress(target.value)}
      />
      <Button htmlType="submit">Try it</Button>
    </form>
  );
}

function LiveCard() {
  const { site, pending } = useOutletContext<SiteFrame>();
  const { draft, live } = site;
  const isReviewed = pending.count === 0 && draft.isLive;
  return (
    <Card
      title="Live and pending"
      to={`/sites/${site.id}/review`}
      more={isReviewed ? 'Review' : 'Review and release'}
    >
      <p>
        {live === null ? (
          'Nothing is released yet: no rule is in force.'
        ) : (
          <>
            Release {live.number} is live since <Moment at={live.releasedAt} />
            {live.note && `: ${live.note}`}
          </>
        )}
      </p>
      <p>
        {draft.isLive
          ? `Draft ${draft.version} is the same.`
          : `Draft ${draft.version} is not released.`}
        {draft.errors > 0 &&
          ` It has ${draft.errors === 1 ? '1 error' : `${draft.errors} errors`}.`}
      </p>
      <p>
        {pending.count === 0
          ? 'No pending changes.'
          : `${pending.count} pending ${pending.count === 1 ? 'change' : 'changes'} in this browser.`}
      </p>
    </Card>
  );
}

function FindingsCard() {
  const { site, pending } = useOutletContext<SiteFrame>();
  const check = useQuery(findingsQuery(site.id, pending));
  return (
    <Card
      title="Guarantees and findings"
      to={`/sites/${site.id}/file`}
      more="All findings, with their fixes"
    >
      {check.error ? (
        <Failure error={check.error} retry={() => void check.refetch()} />
      ) : check.data ? (
        <Findings check={check.data} site={site.id} state={pending.state} />
      ) : (
        <Waiting what="findings" />
      )}
    </Card>
  );
}

function Findings({
  check: { errors, findings, guarantees },
  site,
  state,
}: {
  check: Check;
  site: string;
  state: string;
}) {
  if (errors.length > 0)
    return (
      <>
        <p className={layout.refused}>
          The site file has {errors.length === 1 ? '1 error' : `${errors.length} errors`}, so that
          nothing can be looked for yet.
        </p>
        <ErrorLines errors={errors.slice(0, SHOWN)} site={site} />
      </>
    );
  const broken = guarantees.filter(({ is }) => is !== 'proved');
  const held = guarantees.length - broken.length;
  const proofs = (
    <>
      <BrokenGuarantees guarantees={broken} shownIn={{ site, state }} />
      {held > 0 && (
        <p>
          <Link to={`/sites/${site}/access/guarantees`}>
            {held} {held === 1 ? 'guarantee' : 'guarantees'}
          </Link>{' '}
          proved.
        </p>
      )}
    </>
  );
  if (findings.length === 0)
    return (
      <>
        {proofs}
        <p>No findings: nothing looks wrong.</p>
      </>
    );
  return (
    <>
      {proofs}
      <FindingList site={site} findings={findings} most={SHOWN} />
    </>
  );
}

function MissesCard() {
  const { site } = useOutletContext<SiteFrame>();
  const base = `/sites/${site.id}`;
  const misses = useQuery({
    queryKey: ['misses', site.id, 'overview'],
    queryFn: () => client.misses(site.id, { limit: SHOWN }),
  });
  return (
    <Card title="Missing addresses" to={`${base}/live/misses`} more="All, with suggestions">
      {misses.error ? (
        <Failure error={misses.error} retry={() => void misses.refetch()} />
      ) : misses.data === undefined ? (
        <Waiting what="missing addresses" />
      ) : misses.data.found === 0 ? (
        <p className={layout.quiet}>No missing addresses recorded yet.</p>
      ) : (
        <ul className={layout.plain}>
          {misses.data.misses.map(({ address, count }) => (
            <li key={address}>
              <code>{address}</code> {count === 1 ? 'once' : `${count} times`}
            </li>
          ))}
        </ul>
      )}
    </Card>
  );
}
