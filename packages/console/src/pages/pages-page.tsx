import { Input, Table, type TableColumnsType } from 'antd';
import { Link, useOutletContext } from 'react-router';
import type { ListedPage } from '@kleidon/core';
import { client } from '../client.ts';
import { Failure, Waiting } from '../shell/notices.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import { StateChoice } from '../shell/state-choice.tsx';
import { useAddressState } from '../use-address-state.ts';
import { useLoad } from '../use-load.ts';
import { ruleAddress } from '../visit/visit-panel.tsx';

/** The pages of a site: what each is, the gates before it, and who reaches it in words. */
export function PagesPage() {
  const { site } = useOutletContext<SiteFrame>();
  const { query, change } = useAddressState();
  const state = query.get('state') ?? 'draft';
  const text = query.get('text') ?? '';
  const pages = useLoad(`${site.id} ${site.draft.version} ${state}`, () =>
    client.pages(site.id, state),
  );
  if (pages.error) return <Failure error={pages.error} retry={pages.reload} site={site.id} />;
  if (!pages.value) return <Waiting what="the pages" />;
  const fullAccess = pages.value.find(({ byFullAccess }) => byFullAccess !== null)?.byFullAccess;
  const wanted = text.toLowerCase();
  const shown = pages.value.filter(({ address, title, words, gates }) =>
    [address, title, words, ...gates].some((one) => one.toLowerCase().includes(wanted)),
  );
  return (
    <div className="page">
      <div className="filters" role="search" aria-label="Filters of the pages">
        <h1>Pages</h1>
        <StateChoice
          value={state}
          onChange={(next) => change({ state: next === 'draft' ? null : next })}
        />
        <Input
          aria-label="Search pages"
          placeholder="Address, title, gate or words"
          allowClear
          value={text}
          onChange={({ target }) => change({ text: target.value }, { replace: true })}
        />
        <span className="quiet" role="status">
          {shown.length} of {pages.value.length} pages
        </span>
        {fullAccess && <span className="quiet">Besides, by full access: {fullAccess}.</span>}
      </div>
      <div className="table-frame">
        <Table
          size="small"
          rowKey="address"
          dataSource={shown}
          columns={columnsFor(site.id, state, depthsOf(pages.value))}
          pagination={shown.length > 200 ? { pageSize: 100, showSizeChanger: false } : false}
          sticky
          locale={{ emptyText: 'No page fits this search.' }}
          rowHoverable={false}
        />
      </div>
    </div>
  );
}

/** How deep in the tree each page stands. */
function depthsOf(pages: readonly ListedPage[]): ReadonlyMap<string, number> {
  const depths = new Map<string, number>();
  for (const { address, parent } of pages)
    depths.set(address, parent === null ? 0 : depths.get(parent)! + 1);
  return depths;
}

function columnsFor(
  site: string,
  state: string,
  depths: ReadonlyMap<string, number>,
): TableColumnsType<ListedPage> {
  return [
    {
      title: 'Address',
      key: 'address',
      width: 260,
      sorter: (a, b) => (a.address < b.address ? -1 : 1),
      render: (_, { address, line }) => (
        <Link
          to={ruleAddress(site, state, line)}
          aria-label={`${address} in the site file, line ${line}`}
        >
          <code style={{ paddingInlineStart: (depths.get(address) ?? 0) * 16 }}>{address}</code>
        </Link>
      ),
    },
    { title: 'Title', dataIndex: 'title', width: 170 },
    { title: 'State', key: 'state', width: 190, render: (_, page) => stateInWords(page) },
    {
      title: 'Gates, the nearest first',
      key: 'gates',
      width: 170,
      render: (_, { gates }) =>
        gates.length === 0 ? <span className="quiet">none</span> : gates.join(', '),
    },
    {
      title: 'Who reaches it',
      key: 'words',
      render: (_, { words, address }) => (
        <Link
          to={`/sites/${site}/try?${new URLSearchParams({ address, ...(state === 'draft' ? {} : { state }) }).toString()}`}
        >
          {words}
        </Link>
      ),
    },
  ];
}

function stateInWords({ kind, state, closed, leadsTo, listed }: ListedPage): string {
  const words = [
    ...(kind === 'file' ? ['file'] : []),
    ...(state === 'draft' ? ['draft'] : []),
    ...(closed === null ? [] : [closed]),
    ...(leadsTo === null ? [] : [`leads to ${leadsTo}`]),
    ...(listed ? [] : ['not listed']),
  ];
  return words.length === 0 ? 'there' : words.join(', ');
}
