import { clsx } from 'clsx';
import { useState } from 'react';
import { Button, Input, Select, Table } from 'antd';
import { skipToken, useQuery } from '@tanstack/react-query';
import { useOutletContext } from 'react-router';
import { addressesIn, type ListedAddress } from '@kleidon/client';
import type { decisions } from '@kleidon/core';
import { client } from '../client.ts';
import { namesQuery } from '../changes/names-query.ts';
import { OutcomeTag } from '../visit/outcome-tag.tsx';
import { Failure } from '../shell/notices.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import { StateChoice } from '../shell/state-choice.tsx';
import { TableFrame } from '../shell/table-frame.tsx';
import { useAddressState } from '../use-address-state.ts';
import layout from '../style/layout.module.css';
import css from './list-page.module.css';

const EVERYONE = '';
/** As many as one call takes. */
const MOST = 20_000;

/** A pasted list of addresses: where each ends, for one visitor or for all, to be copied or downloaded. */
export function TryListPage() {
  const { site, pending } = useOutletContext<SiteFrame>();
  const { query, change } = useAddressState();
  const state = query.get('state') ?? pending.state;
  const as = query.get('as') ?? EVERYONE;
  const [text, setText] = useState('');
  const [listed, setListed] = useState<readonly ListedAddress[]>([]);
  const addresses = listed.slice(0, MOST).map(({ address }) => address);
  const times = new Map(listed.map((one) => [one.address, one.times]));
  const names = useQuery(namesQuery(site.id, pending, state));
  const request = { addresses, state, ...(as === EVERYONE ? {} : { as: [as] }) };
  const visits = useQuery({
    queryKey: ['visits', site.id, pending.key, request],
    queryFn:
      addresses.length === 0
        ? skipToken
        : ({ signal }) => client.visitList(site.id, request, signal),
  });

  return (
    <div className={layout.page}>
      <div className={layout.filters}>
        <h1>Try a list of addresses</h1>
        <StateChoice value={state} onChange={(next) => change({ state: next })} />
        <Select
          aria-label="As"
          value={as}
          popupMatchSelectWidth={false}
          onChange={(next: string) => change({ as: next })}
          options={[
            { value: EVERYONE, label: 'All visitors' },
            ...(names.data?.visitors ?? []).map(({ name, title, summary }) => ({
              value: name,
              label: `${title} (${summary})`,
            })),
          ]}
        />
        <Button
          type="primary"
          disabled={text.trim() === ''}
          onClick={() => setListed(addressesIn(text))}
        >
          Try them
        </Button>
        {visits.data && (
          <Taking visits={visits.data} load={() => client.visitListCsv(site.id, request)} />
        )}
      </div>
      <div className={layout.beside}>
        <label className={css.pasted}>
          <span>Addresses, one a line, or a server’s access log</span>
          <Input.TextArea
            aria-label="Addresses, one a line, or a server’s access log"
            className={clsx(layout.code)}
            spellCheck={false}
            value={text}
            onChange={({ target }) => setText(target.value)}
          />
        </label>
        <TableFrame label="Where they end" live="polite">
          {visits.error ? (
            <Failure error={visits.error} retry={() => void visits.refetch()} site={site.id} />
          ) : (
            <Ends
              visits={visits.data ?? []}
              timesOf={(address) => times.get(address) ?? null}
              isLoading={visits.isPlaceholderData}
            />
          )}
        </TableFrame>
      </div>
    </div>
  );
}

function Ends({
  visits,
  timesOf,
  isLoading,
}: {
  visits: readonly decisions.ListedVisit[];
  /** How often an access log has an address; null for any other list. */
  timesOf: (address: string) => number | null;
  isLoading: boolean;
}) {
  const isLog = visits.some(({ address }) => timesOf(address) !== null);
  return (
    <Table<decisions.ListedVisit>
      size="small"
      rowKey={({ address, visitor }) => `${address} ${visitor}`}
      dataSource={visits}
      loading={isLoading}
      sticky
      rowHoverable={false}
      pagination={visits.length > 200 ? { pageSize: 100, showSizeChanger: false } : false}
      locale={{ emptyText: 'Paste addresses on the left, and try them.' }}
      columns={[
        ...(isLog
          ? [
              {
                title: 'Times',
                key: 'times',
                width: 80,
                render: (_: unknown, { address }: decisions.ListedVisit) => timesOf(address),
              },
            ]
          : []),
        { title: 'Address', dataIndex: 'address', render: (text: string) => <code>{text}</code> },
        { title: 'As', dataIndex: 'visitor', width: 100 },
        {
          title: 'Outcome',
          key: 'outcome',
          width: 190,
          sorter: (a, b) => (a.outcome < b.outcome ? -1 : 1),
          render: (_, { outcome, status, fullAccess }) => (
            <OutcomeTag outcome={outcome} status={status} fullAccess={fullAccess} />
          ),
        },
        { title: 'Hops', dataIndex: 'hops', width: 80, sorter: (a, b) => a.hops - b.hops },
        { title: 'Ends at', dataIndex: 'final', render: (text: string) => <code>{text}</code> },
      ]}
    />
  );
}

/** Copies the table, with tabs between as spreadsheets take it, or saves it as CSV. */
function Taking({
  visits,
  load,
}: {
  visits: readonly decisions.ListedVisit[];
  load: () => Promise<string>;
}) {
  const [said, setSaid] = useState('');
  const rows = visits.map(({ address, visitor, outcome, status, final, hops }) =>
    [address, visitor, outcome, status, final, hops].join('\t'),
  );
  const copy = async (): Promise<void> => {
    await navigator.clipboard.writeText(
      ['address\tvisitor\toutcome\tstatus\tfinal\thops', ...rows].join('\n'),
    );
    setSaid('Copied.');
  };
  const download = async (): Promise<void> => {
    const link = document.createElement('a');
    link.href = URL.createObjectURL(new Blob([await load()], { type: 'text/csv' }));
    link.download = 'ends.csv';
    link.click();
    URL.revokeObjectURL(link.href);
  };
  const run = (work: () => Promise<void>) => () =>
    void work().catch((error: unknown) => setSaid((error as Error).message));
  return (
    <>
      <Button onClick={run(copy)}>Copy</Button>
      <Button onClick={run(download)}>Download CSV</Button>
      <span className={layout.quiet} role="status">
        {said || `${visits.length} visits`}
      </span>
    </>
  );
}
