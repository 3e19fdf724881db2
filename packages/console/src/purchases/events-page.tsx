import { clsx } from 'clsx';
import { Button, Table } from 'antd';
import { useMutation, useQuery } from '@tanstack/react-query';
import { Link, useOutletContext } from 'react-router';
import type { ReceivedEvent, RefusedEvents, RejectedEvent } from '@kleidon/client';
import { client } from '../client.ts';
import { Moment } from '../live/moment.tsx';
import { EVERY_TEN_SECONDS } from '../query-client.ts';
import { Failure, Waiting } from '../shell/notices.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import { TableFrame } from '../shell/table-frame.tsx';
import { pagesOf } from '../shell/pages-of.ts';
import { useAddressState } from '../use-address-state.ts';
import { TryEvent } from './try-event.tsx';
import { EVENTS } from './state-words.ts';
import css from './purchases.module.css';
import live from '../live/live.module.css';
import layout from '../style/layout.module.css';

const A_PAGE = 50;

const REFUSALS: Readonly<Record<RefusedEvents['reason'], string>> = {
  'no-signature': 'they carry no signature. Check the headers that the shop sends.',
  'wrong-secret': 'no secret in the settings made the signature. Compare the secret of the shop.',
  'wrong-clock':
    'the secret is right, and the time is more than 5 minutes off. Check the clock of the shop and of this machine.',
};

/** What shops told: what was not understood, what is pending, and the rest. */
export function EventsPage() {
  const { site } = useOutletContext<SiteFrame>();
  const { query, change } = useAddressState();
  const page = Number(query.get('page') ?? 1);
  const events = useQuery({
    queryKey: ['shop-events', site.id, page],
    queryFn: () => client.shopEvents(site.id, { skip: (page - 1) * A_PAGE, limit: A_PAGE }),
    refetchInterval: EVERY_TEN_SECONDS,
    placeholderData: (before) => before,
  });
  const summary = useQuery({
    queryKey: ['purchase-summary', site.id, ''],
    queryFn: () => client.purchaseSummary(site.id),
  });
  const action = useMutation({
    mutationFn: (work: () => Promise<string>) => work(),
    onSuccess: () => Promise.all([events.refetch(), summary.refetch()]),
  });
  if (events.error && !events.data)
    return <Failure error={events.error} retry={() => void events.refetch()} />;
  if (!events.data) return <Waiting what="the events" />;
  const { found, events: rows, rejected, refused } = events.data;
  const pending = summary.data?.pending;
  const apply = (one?: RejectedEvent): void =>
    action.mutate(async () => {
      const body = one ? { shop: one.shop, id: one.id } : {};
      const { applied, reread, rejected: left } = await client.applyShopEvents(site.id, body);
      const all = applied + reread;
      return `${all === 1 ? '1 event' : `${all} events`} applied${left.length > 0 ? `; ${left.length} still not understood` : ''}.`;
    });
  return (
    <div className={layout.page}>
      <div className={layout.filters}>
        <h1>Events of shops</h1>
        <span role="status" className={layout.quiet}>
          {action.data ?? (found === 1 ? '1 event.' : `${found.toLocaleString()} events.`)}
        </span>
      </div>
      <div className={live.live}>
        {action.error && <Failure error={action.error} />}
        {pending && (pending.products.length > 0 || pending.withoutPurchase.found > 0) && (
          <section aria-label="Pending">
            <h2>Pending</h2>
            <ul>
              {pending.products.map(({ product, count }) => (
                <li key={product}>
                  {count === 1 ? '1 event tells' : `${count} events tell`} of <code>{product}</code>
                  , which the live site file does not have: it counts once it does.{' '}
                  <Link to={`/sites/${site.id}/visitors/products?new=yes`}>Declare it</Link>, or
                  name it in the settings of the shop.
                </li>
              ))}
              {pending.withoutPurchase.found > 0 && (
                <li>
                  {pending.withoutPurchase.found === 1
                    ? 'One purchase was told of'
                    : `${pending.withoutPurchase.found} purchases were told of`}
                  , and not that {pending.withoutPurchase.found === 1 ? 'it was' : 'they were'}{' '}
                  made:{' '}
                  {pending.withoutPurchase.first
                    .slice(0, 5)
                    .map(
                      ({ shop, purchase, type }) => `${shop}/${purchase} ${EVENTS[type] ?? type}`,
                    )
                    .join(', ')}
                  .
                </li>
              )}
            </ul>
            <Button size="small" onClick={() => apply()} loading={action.isPending}>
              Read again by the settings
            </Button>
          </section>
        )}
        {refused.length > 0 && (
          <section aria-label="Refused">
            <h2>Refused since the start of the service</h2>
            <ul>
              {refused.map(({ shop, reason, count, lastAt }) => (
                <li key={`${shop} ${reason}`}>
                  <span className={live.down} aria-hidden>
                    ×{' '}
                  </span>
                  {count === 1 ? '1 event' : `${count.toLocaleString()} events`} of {shop}, the last
                  at <Moment at={lastAt} />: {REFUSALS[reason]}
                </li>
              ))}
            </ul>
          </section>
        )}
        {rejected.length > 0 && (
          <section aria-label="Rejected">
            <div className={clsx(layout.filters, live.bar)}>
              <h2>Rejected</h2>
              <Button size="small" onClick={() => apply()} loading={action.isPending}>
                Apply all again
              </Button>
            </div>
            <TableFrame label="Rejected events" inPage>
              <Table<RejectedEvent>
                size="small"
                rowKey={({ shop, id }) => `${shop} ${id}`}
                dataSource={rejected}
                rowHoverable={false}
                pagination={false}
                columns={[
                  {
                    title: 'When',
                    key: 'at',
                    width: 150,
                    render: (_, one) => <Moment at={one.receivedAt} />,
                  },
                  { title: 'Shop', key: 'shop', width: 110, render: (_, one) => one.shop },
                  {
                    title: 'Why',
                    key: 'why',
                    width: 420,
                    render: (_, one) => (
                      <>
                        <span className={live.down} aria-hidden>
                          ×{' '}
                        </span>
                        {one.problem}
                        <details>
                          <summary>What came</summary>
                          <code className={css.body}>{one.body}</code>
                        </details>
                      </>
                    ),
                  },
                  {
                    title: 'More',
                    key: 'more',
                    width: 170,
                    render: (_, one) => (
                      <span className={layout.buttons}>
                        <Button
                          size="small"
                          aria-label={`Apply ${one.id} again`}
                          onClick={() => apply(one)}
                        >
                          Apply again
                        </Button>{' '}
                        <Button
                          size="small"
                          aria-label={`Drop ${one.id}`}
                          onClick={() =>
                            action.mutate(async () => {
                              await client.dropShopEvent(site.id, one.shop, one.id);
                              return `${one.id} is dropped.`;
                            })
                          }
                        >
                          Drop
                        </Button>
                      </span>
                    ),
                  },
                ]}
              />
            </TableFrame>
          </section>
        )}
        <TryEvent site={site.id} shops={summary.data?.shops ?? []} />
        <h2>Received</h2>
        <TableFrame label="Received events" inPage>
          <Table<ReceivedEvent>
            size="small"
            rowKey={({ shop, id }) => `${shop} ${id}`}
            dataSource={rows}
            rowHoverable={false}
            pagination={pagesOf(found, page, A_PAGE)}
            onChange={({ current = 1 }) => change({ page: current > 1 ? String(current) : null })}
            locale={{ emptyText: 'No shop has told anything yet.' }}
            columns={[
              {
                title: 'Happened',
                key: 'at',
                width: 150,
                render: (_, one) => <Moment at={one.at} />,
              },
              {
                title: 'What',
                key: 'what',
                render: (_, { type, partly }) =>
                  `${EVENTS[type] ?? type}${partly ? ' in part' : ''}`,
              },
              {
                title: 'Purchase',
                key: 'purchase',
                width: 240,
                render: (_, { shop, purchase }) => (
                  <code>
                    {shop}
                    {purchase !== null && `/${purchase}`}
                  </code>
                ),
              },
              {
                title: 'Product',
                key: 'product',
                width: 140,
                render: (_, one) => one.product ?? '',
              },
              {
                title: 'Buyer',
                key: 'buyer',
                render: (_, { email, visitor }) =>
                  (email ?? visitor) === null ? (
                    <span className={layout.quiet}>not said</span>
                  ) : (
                    <Link
                      to={`/sites/${site.id}/visitors/buyers?${new URLSearchParams({ buyer: email ?? visitor ?? '' }).toString()}`}
                    >
                      {email ?? visitor}
                    </Link>
                  ),
              },
            ]}
          />
        </TableFrame>
      </div>
    </div>
  );
}
