import { Button, Table } from 'antd';
import { useMutation, useQuery } from '@tanstack/react-query';
import { Link, useOutletContext } from 'react-router';
import type { Miss, MissesRequest } from '@kleidon/client';
import { client } from '../client.ts';
import { EVERY_TEN_SECONDS } from '../query-client.ts';
import { Failure, Waiting } from '../shell/notices.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import { TableFrame } from '../shell/table-frame.tsx';
import { pagesOf } from '../shell/pages-of.ts';
import { TypedInput } from '../shell/typed-input.tsx';
import { useAddressState } from '../use-address-state.ts';
import { Moment } from './moment.tsx';
import { clsx } from 'clsx';
import layout from '../style/layout.module.css';

const A_PAGE = 50;
const ORDERS: Readonly<Record<string, string>> = {
  count: 'count',
  last: 'last',
  address: 'address',
};

/** What was asked for and not found, and the redirect from each, made with one click. */
export function MissesView() {
  const { site, pending } = useOutletContext<SiteFrame>();
  const { query, change } = useAddressState();
  const page = Number(query.get('page') ?? '1');
  const request = {
    order: (query.get('order') ?? 'count') as MissesRequest['order'],
    search: query.get('text') ?? '',
    skip: (page - 1) * A_PAGE,
    limit: A_PAGE,
  };
  const misses = useQuery({
    queryKey: ['misses', site.id, request],
    queryFn: () => client.misses(site.id, request),
    refetchInterval: EVERY_TEN_SECONDS,
  });
  const action = useMutation({ mutationFn: (work: () => Promise<string>) => work() });
  const act = (work: () => Promise<string>) => () => action.mutate(work);
  if (misses.error && !misses.data)
    return <Failure error={misses.error} retry={() => void misses.refetch()} />;
  if (!misses.data) return <Waiting what="misses" />;
  const waiting = new Set(
    (pending.changes?.edits ?? []).flatMap(({ edit }) =>
      edit.do === 'put-item' && edit.section === 'redirects' && edit.was === null
        ? [(edit.value as { from?: string }).from]
        : [],
    ),
  );
  const redirect = (from: string, to: string) =>
    act(async () => {
      await pending.add({
        do: 'put-item',
        section: 'redirects',
        was: null,
        value: { from, to, kind: 'permanent' },
      });
      return `The redirect from ${from} to ${to} is pending.`;
    });
  const { found, misses: rows } = misses.data;
  return (
    <>
      <div className={layout.filters} role="search" aria-label="Search in misses">
        <TypedInput
          aria-label="Search misses"
          placeholder="Search"
          allowClear
          value={request.search}
          onType={(text) => change({ text, page: null }, { replace: true })}
        />
        <span className={layout.quiet} role="status">
          {action.data ?? (found === 1 ? '1 address.' : `${found} addresses.`)} Queries and what may
          be about someone are not kept.
        </span>
      </div>
      {action.error && <Failure error={action.error} />}
      <TableFrame label="Missing addresses">
        <Table<Miss>
          size="small"
          rowKey="address"
          dataSource={rows}
          sticky
          rowHoverable={false}
          pagination={pagesOf(found, page, A_PAGE)}
          onChange={({ current = 1 }, _, sorter) => {
            const { columnKey } = Array.isArray(sorter) ? sorter[0]! : sorter;
            const order = ORDERS[String(columnKey)] ?? 'count';
            change({
              order: order === 'count' ? null : order,
              page: current > 1 && current !== page ? String(current) : null,
            });
          }}
          locale={{
            emptyText:
              request.search === ''
                ? 'No missing addresses recorded yet.'
                : 'No miss fits this search.',
          }}
          columns={[
            {
              title: 'Asked for',
              key: 'address',
              width: 230,
              sorter: true,
              sortOrder: request.order === 'address' ? 'ascend' : null,
              sortDirections: ['ascend'],
              render: (_, { address }) => <code>{address}</code>,
            },
            {
              title: 'Times',
              key: 'count',
              width: 80,
              align: 'right',
              sorter: true,
              sortOrder: request.order === 'count' ? 'descend' : null,
              sortDirections: ['descend'],
              render: (_, { count }) => count.toLocaleString(),
            },
            {
              title: 'First',
              key: 'first',
              width: 140,
              render: (_, { first }) => <Moment at={first} />,
            },
            {
              title: 'Last',
              key: 'last',
              width: 140,
              sorter: true,
              sortOrder: request.order === 'last' ? 'descend' : null,
              sortDirections: ['descend'],
              render: (_, { last }) => <Moment at={last} />,
            },
            {
              title: 'Linked from',
              key: 'referrer',
              width: 205,
              render: (_, { referrer }) =>
                referrer === null ? (
                  <span className={layout.quiet}>not said</span>
                ) : (
                  <code>{referrer}</code>
                ),
            },
            {
              title: 'Redirect to',
              key: 'close',
              render: (_, { address, page: title }) =>
                title !== null ? (
                  <span className={layout.quiet}>
                    The page “{title}” is not open to those who asked.
                  </span>
                ) : waiting.has(address) ? (
                  <Link to={`/sites/${site.id}/review`}>A redirect is pending</Link>
                ) : (
                  <span className={clsx(layout.buttons, layout.wrap)}>
                    {site.live && (
                      <Suggestions site={site.id} address={address} redirect={redirect} />
                    )}
                    <Link
                      to={`/sites/${site.id}/addresses/redirects?${new URLSearchParams({ new: 'yes', from: address }).toString()}`}
                      aria-label={`Elsewhere: a redirect from ${address}`}
                    >
                      Elsewhere
                    </Link>
                  </span>
                ),
            },
            {
              title: 'More',
              key: 'more',
              width: 90,
              render: (_, { address }) => (
                <Button
                  size="small"
                  aria-label={`Forget ${address}`}
                  onClick={act(async () => {
                    await client.dropMiss(site.id, address);
                    void misses.refetch();
                    return `${address} is forgotten.`;
                  })}
                >
                  Forget
                </Button>
              ),
            },
          ]}
        />
      </TableFrame>
    </>
  );
}

interface SuggestionsProps {
  readonly site: string;
  readonly address: string;
  redirect(from: string, to: string): () => void;
}

const MOST_SUGGESTIONS = 3;

/** The pages that may have been meant; asked for row by row, for each is a search through all pages. */
function Suggestions({ site, address, redirect }: SuggestionsProps) {
  const { data = [] } = useQuery({
    queryKey: ['suggestions', site, address],
    queryFn: () => client.suggestPages(site, { address, as: 'guest', state: 'live' }),
    placeholderData: [],
  });
  return data.slice(0, MOST_SUGGESTIONS).map((one) => (
    <Button
      key={one.address}
      size="small"
      title={one.title}
      aria-label={`Redirect ${address} to ${one.address}`}
      onClick={redirect(address, one.address)}
    >
      {one.address}
    </Button>
  ));
}
