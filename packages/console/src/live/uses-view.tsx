import { Select, Table } from 'antd';
import { useQuery } from '@tanstack/react-query';
import { Link, useOutletContext } from 'react-router';
import type { UsesRequest } from '@kleidon/client';
import type { queries } from '@kleidon/core';
import { client } from '../client.ts';
import { EVERY_TEN_SECONDS } from '../query-client.ts';
import { Failure, Waiting } from '../shell/notices.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import { TableFrame } from '../shell/table-frame.tsx';
import { pagesOf } from '../shell/pages-of.ts';
import { useAddressState } from '../use-address-state.ts';
import { Moment } from './moment.tsx';
import layout from '../style/layout.module.css';

const A_PAGE = 100;
const ORDERS = [
  ['count', 'Most used first'],
  ['last', 'Last used first'],
  ['unused', 'Never used first'],
  ['file', 'As in the site file'],
] as const;

/** The redirects that are live, with how often each was used, and when last. */
export function UsesView() {
  const { site } = useOutletContext<SiteFrame>();
  const { query, change } = useAddressState();
  const order = (query.get('order') ?? 'count') as Exclude<UsesRequest['order'], undefined>;
  const page = Number(query.get('page') ?? '1');
  const request = { order, skip: (page - 1) * A_PAGE, limit: A_PAGE };
  const uses = useQuery({
    queryKey: ['redirect uses', site.id, request],
    queryFn: () => client.redirectUses(site.id, request),
    refetchInterval: EVERY_TEN_SECONDS,
  });
  if (uses.error && !uses.data)
    return <Failure error={uses.error} retry={() => void uses.refetch()} />;
  if (!uses.data) return <Waiting what="redirects in use" />;
  const { all, used, rows } = uses.data;
  return (
    <>
      <div className={layout.filters}>
        <Select
          aria-label="Order"
          popupMatchSelectWidth={false}
          value={order}
          onChange={(next: string) => change({ order: next, page: null })}
          options={ORDERS.map(([value, label]) => ({ value, label }))}
        />
        <span className={layout.quiet} role="status">
          {used} of {all} redirects of the live release are in use.
        </span>
      </div>
      <TableFrame label="Redirects in use">
        <Table<queries.UsedRedirect>
          size="small"
          rowKey={({ list, line }) => `${list ?? ''}:${line}`}
          dataSource={rows}
          sticky
          rowHoverable={false}
          pagination={pagesOf(all, page, A_PAGE)}
          onChange={({ current = 1 }) => change({ page: current > 1 ? String(current) : null })}
          locale={{ emptyText: 'The live release has no redirects.' }}
          columns={[
            {
              title: 'From',
              key: 'from',
              render: (_, { from, list }) => (
                <Link
                  to={`/sites/${site.id}/addresses/redirects?${new URLSearchParams({ text: from, ...(list === null ? {} : { list }) }).toString()}`}
                >
                  <code>{from}</code>
                </Link>
              ),
            },
            { title: 'To', key: 'to', render: (_, { to }) => <code>{to}</code> },
            {
              title: 'Only for',
              key: 'when',
              width: 200,
              render: (_, { when }) =>
                when === null ? <span className={layout.quiet}>anyone</span> : <code>{when}</code>,
            },
            {
              title: 'Times',
              key: 'count',
              width: 90,
              align: 'right',
              render: (_, { count }) => count.toLocaleString(),
            },
            {
              title: 'Last',
              key: 'last',
              width: 170,
              render: (_, { last }) =>
                last === null ? <span className={layout.quiet}>never</span> : <Moment at={last} />,
            },
          ]}
        />
      </TableFrame>
    </>
  );
}
