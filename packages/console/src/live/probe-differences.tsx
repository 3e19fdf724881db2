import { clsx } from 'clsx';
import { Select, Table } from 'antd';
import { useQuery } from '@tanstack/react-query';
import { Link, useOutletContext } from 'react-router';
import { differenceInWords, type ProbeDifference } from '@kleidon/client';
import { client } from '../client.ts';
import { Failure, Waiting } from '../shell/notices.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import { TableFrame } from '../shell/table-frame.tsx';
import { pagesOf } from '../shell/pages-of.ts';
import { TypedInput } from '../shell/typed-input.tsx';
import { useAddressState } from '../use-address-state.ts';
import { visitAddress } from '../visit/visit-address.ts';
import { Moment } from './moment.tsx';
import css from './live.module.css';
import layout from '../style/layout.module.css';

const A_PAGE = 50;
const SIGNS = { opens: '!', closes: '×', other: '~' };

/** Where the website differs from the rules: there are now, or are over. */
export function ProbeDifferences({ lastRun }: { lastRun: number }) {
  const { site } = useOutletContext<SiteFrame>();
  const { query, change } = useAddressState();
  const page = Number(query.get('page') ?? '1');
  const ended = query.get('ended') === 'yes' ? 'yes' : 'no';
  const request = {
    ended,
    search: query.get('text') ?? '',
    skip: (page - 1) * A_PAGE,
    limit: A_PAGE,
  } as const;
  const told = useQuery({
    // What a run found changes when it ends.
    queryKey: ['probe-differences', site.id, lastRun, request],
    queryFn: () => client.probeDifferences(site.id, request),
  });
  if (told.error && !told.data)
    return <Failure error={told.error} retry={() => void told.refetch()} />;
  if (!told.data) return <Waiting what="differences" />;
  const { found, differences } = told.data;
  return (
    <>
      <div className={clsx(layout.filters, css.bar)}>
        <h2>Differences</h2>
        <TypedInput
          aria-label="Search differences"
          placeholder="Address or visitor"
          allowClear
          value={request.search}
          onType={(text) => change({ text, page: null }, { replace: true })}
        />
        <Select
          aria-label="Which differences"
          popupMatchSelectWidth={false}
          value={ended}
          onChange={(next) => change({ ended: next === 'yes' ? next : null, page: null })}
          options={[
            { value: 'no', label: 'there now' },
            { value: 'yes', label: 'over' },
          ]}
        />
        <span className={layout.quiet} role="status">
          {found === 1 ? '1 difference.' : `${found} differences.`}
        </span>
      </div>
      <TableFrame label="Differences" inPage>
        <Table<ProbeDifference>
          size="small"
          rowKey={({ kind, address, visitor, firstAt }) =>
            `${kind} ${address} ${visitor} ${firstAt}`
          }
          dataSource={differences}
          rowHoverable={false}
          pagination={pagesOf(found, page, A_PAGE)}
          onChange={({ current = 1 }) => change({ page: current > 1 ? String(current) : null })}
          locale={{ emptyText: emptyText(request.search, ended, lastRun) }}
          columns={[
            {
              title: 'Address',
              key: 'address',
              render: (_, { address, visitor, step }) => (
                <>
                  <Link
                    to={visitAddress(site.id, address, {
                      state: 'live',
                      ...(visitor === null ? { visitor: { guest: true } } : { as: visitor }),
                    })}
                  >
                    <code>{address}</code>
                  </Link>
                  {step !== address && (
                    <div className={layout.quiet}>
                      at <code>{step}</code>
                    </div>
                  )}
                </>
              ),
            },
            {
              title: 'Visitor',
              key: 'visitor',
              width: 90,
              render: (_, { visitor }) => visitor ?? <span className={layout.quiet}>everyone</span>,
            },
            {
              title: 'What differs',
              key: 'what',
              width: 210,
              render: (_, one) => (
                <>
                  <span aria-hidden className={one.effect === 'other' ? undefined : css.down}>
                    {SIGNS[one.effect]}{' '}
                  </span>
                  {differenceInWords(one)}
                  {one.kind === 'undeclared-page' && one.endedAt === null && (
                    <div>
                      <Link
                        to={`/sites/${site.id}/pages?${new URLSearchParams({ new: 'yes', named: one.address }).toString()}`}
                        aria-label={`Declare ${one.address}`}
                      >
                        Declare it
                      </Link>
                    </div>
                  )}
                </>
              ),
            },
            {
              title: 'The rules say',
              key: 'expected',
              width: 290,
              render: (_, { expected }) => expected,
            },
            { title: 'The website', key: 'found', width: 120, render: (_, one) => one.found },
            {
              title: 'First',
              key: 'first',
              className: css.moment!,
              width: 140,
              render: (_, { firstAt }) => <Moment at={firstAt} />,
            },
            {
              title: ended === 'yes' ? 'Over' : 'Last',
              key: 'last',
              className: css.moment!,
              width: 140,
              render: (_, { lastAt, endedAt }) => <Moment at={endedAt ?? lastAt} />,
            },
          ]}
        />
      </TableFrame>
    </>
  );
}

function emptyText(search: string, ended: string, lastRun: number): string {
  if (search !== '') return 'No difference fits this search.';
  if (ended === 'yes') return 'No differences that are over.';
  return lastRun === 0
    ? 'No run has ended yet.'
    : 'No differences: the website does what the rules say.';
}
