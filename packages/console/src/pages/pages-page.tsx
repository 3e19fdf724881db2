import { clsx } from 'clsx';
import { useState } from 'react';
import { Button, Table, type TableColumnsType } from 'antd';
import { skipToken, useQuery } from '@tanstack/react-query';
import { Link, useOutletContext } from 'react-router';
import type { queries } from '@kleidon/core';
import { client } from '../client.ts';
import { choicesOf } from '../entries/choices.ts';
import { Failure, Waiting } from '../shell/notices.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import { StateChoice } from '../shell/state-choice.tsx';
import { TableFrame } from '../shell/table-frame.tsx';
import { TypedInput } from '../shell/typed-input.tsx';
import { useAddressState } from '../use-address-state.ts';
import { PagePanel } from './page-panel.tsx';
import layout from '../style/layout.module.css';

/** The pages of a site: what each is, the gates before it, and who reaches it in words. */
export function PagesPage() {
  const { site, pending } = useOutletContext<SiteFrame>();
  const { query, change } = useAddressState();
  const [said, setSaid] = useState('');
  const state = query.get('state') ?? pending.state;
  const text = query.get('text') ?? '';
  const pages = useQuery({
    queryKey: ['pages', site.id, pending.key, state],
    queryFn: pending.changes
      ? async () => ({
          listed: await client.pages(site.id, state),
          document: await client.document(site.id, state),
        })
      : skipToken,
  });
  if (pages.error)
    return <Failure error={pages.error} retry={() => void pages.refetch()} site={site.id} />;
  if (!pages.data) return <Waiting what="the pages" />;
  const { listed, document } = pages.data;
  const fullAccess = listed.find(({ byFullAccess }) => byFullAccess !== null)?.byFullAccess;
  const wanted = text.toLowerCase();
  const shown = listed.filter(({ address, title, words, gates }) =>
    [address, title, words, ...gates].some((one) => one.toLowerCase().includes(wanted)),
  );
  const isWorkedOn = state === pending.state;
  const isNew = isWorkedOn && query.get('new') === 'yes';
  const open = isWorkedOn ? listed.find(({ address }) => address === query.get('page')) : undefined;
  const entries = document['pages'] as Readonly<Record<string, unknown>> | undefined;
  return (
    <div className={layout.page}>
      <div className={layout.filters} role="search" aria-label="Filters of the pages">
        <h1>Pages</h1>
        <StateChoice value={state} onChange={(next) => change({ state: next, page: null })} />
        <TypedInput
          aria-label="Search pages"
          placeholder="Address, title, gate or words"
          allowClear
          value={text}
          onType={(text) => change({ text }, { replace: true })}
        />
        {isWorkedOn && <Button onClick={() => change({ new: 'yes', page: null })}>New page</Button>}
        <span className={layout.quiet} role="status">
          {said || `${shown.length} of ${listed.length} pages`}
        </span>
        {fullAccess && <span className={layout.quiet}>Besides, by full access: {fullAccess}.</span>}
      </div>
      <div className={layout.beside}>
        <TableFrame label="Pages">
          <Table
            size="small"
            rowKey="address"
            dataSource={shown}
            columns={columnsFor(site.id, state, depthsOf(listed), byAddress(shown), (page) =>
              isWorkedOn ? change({ page, new: null }) : undefined,
            ).filter(({ key }) => !(isNew || open) || !BESIDE_A_FORM.includes(String(key)))}
            pagination={shown.length > 200 ? { pageSize: 100, showSizeChanger: false } : false}
            sticky
            locale={{ emptyText: 'No page fits this search.' }}
            rowHoverable={false}
            rowClassName={({ address }) => clsx(address === open?.address && layout.here)}
          />
        </TableFrame>
        {(isNew || open) && (
          <PagePanel
            key={`${open?.address ?? ''} ${JSON.stringify(entries?.[open?.address ?? ''] ?? null)}`}
            page={open ?? null}
            value={open && entries?.[open.address]}
            choices={choicesOf(site.id, state, document)}
            onClose={(news) => {
              setSaid(news);
              change({ page: null, new: null, named: null });
            }}
          />
        )}
      </div>
    </div>
  );
}

/** Columns that make room for a form. */
const BESIDE_A_FORM = ['state', 'gates', 'words'];

/** How deep in the tree each page stands. */
function depthsOf(pages: readonly queries.ListedPage[]): ReadonlyMap<string, number> {
  const depths = new Map<string, number>();
  for (const { address, parent } of pages)
    depths.set(address, parent === null ? 0 : depths.get(parent)! + 1);
  return depths;
}

function columnsFor(
  site: string,
  state: string,
  depths: ReadonlyMap<string, number>,
  parents: ReadonlyMap<string, queries.ListedPage>,
  onOpen: (address: string) => void,
): TableColumnsType<queries.ListedPage> {
  return [
    {
      title: 'Address',
      key: 'address',
      width: 260,
      sorter: (a, b) => (a.address < b.address ? -1 : 1),
      render: (_, { address }) => (
        <Button
          type="link"
          size="small"
          className={clsx(layout.name)}
          style={{ marginInlineStart: (depths.get(address) ?? 0) * 16 }}
          aria-label={`Open page ${address}`}
          onClick={() => onOpen(address)}
        >
          <code>{address}</code>
        </Button>
      ),
    },
    { title: 'Title', dataIndex: 'title', width: 170 },
    { title: 'State', key: 'state', width: 190, render: (_, page) => stateInWords(page) },
    {
      title: 'Gates, the nearest first',
      key: 'gates',
      width: 210,
      render: (_, page) => (
        <GatesOf page={page} parent={parents.get(page.parent ?? '')} site={site} />
      ),
    },
    {
      title: 'Who reaches it',
      key: 'words',
      render: (_, { words, address, others }) => (
        <>
          <Link
            to={`/sites/${site}/reach/address?${new URLSearchParams({ address, ...(state === 'draft' ? {} : { state }) }).toString()}`}
          >
            {words}
          </Link>
          {others === null && <div>Not known for all of its addresses.</div>}
          {others?.map((family) => (
            <div key={family.example} className={layout.quiet}>
              {family.within.join(', and of ') || family.example}: {family.words}
            </div>
          ))}
        </>
      ),
    },
  ];
}

/** The gates that a page is behind: those that it shares with the page above it are drawn on from there. */
function GatesOf({
  page: { gates, gatesFrom },
  parent,
  site,
}: {
  page: queries.ListedPage;
  parent: queries.ListedPage | undefined;
  site: string;
}) {
  if (gates.length === 0)
    return (
      <span className={layout.quiet}>
        {parent && parent.gates.length > 0 ? '○ open inside' : 'none'}
      </span>
    );
  return gates.map((gate, i) =>
    parent?.gates.includes(gate) ? (
      <div key={gate} className={layout.quiet}>
        <span aria-hidden>│</span> {gate}
      </div>
    ) : (
      <div key={gate}>
        <span aria-hidden>┌</span>{' '}
        <Link to={`/sites/${site}/access/gates?${new URLSearchParams({ name: gate }).toString()}`}>
          {gate}
        </Link>{' '}
        <span className={layout.quiet}>{gatesFrom[i]}</span>
      </div>
    ),
  );
}

const byAddress = (pages: readonly queries.ListedPage[]): ReadonlyMap<string, queries.ListedPage> =>
  new Map(pages.map((page) => [page.address, page]));

function stateInWords({ kind, state, closed, leadsTo, listed }: queries.ListedPage): string {
  const words = [
    ...(kind === 'file' ? ['file'] : []),
    ...(state === 'draft' ? ['draft'] : []),
    ...(closed === null ? [] : [closed]),
    ...(leadsTo === null ? [] : [`redirects to ${leadsTo}`]),
    ...(listed ? [] : ['not listed']),
  ];
  return words.length === 0 ? 'there' : words.join(', ');
}
