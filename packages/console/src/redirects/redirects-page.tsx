import { clsx } from 'clsx';
import { useState } from 'react';
import { Button, Select, Table } from 'antd';
import { skipToken, useQuery } from '@tanstack/react-query';
import { useOutletContext } from 'react-router';
import type { queries } from '@kleidon/core';
import type { RedirectsRequest } from '@kleidon/client';
import { client } from '../client.ts';
import { documentQuery } from '../changes/document-query.ts';
import { choicesOf } from '../entries/choices.ts';
import { EntryPanel } from '../entries/entry-panel.tsx';
import { REDIRECTS } from '../entries/sections.ts';
import { Failure, Waiting } from '../shell/notices.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import { TableFrame } from '../shell/table-frame.tsx';
import { PanelHead } from '../shell/panel-head.tsx';
import { pagesOf } from '../shell/pages-of.ts';
import { TypedInput } from '../shell/typed-input.tsx';
import { useAddressState } from '../use-address-state.ts';
import { BulkEdit } from './bulk-edit.tsx';
import { ImportPanel } from './import-panel.tsx';
import { columns } from './redirect-columns.tsx';
import { RedirectWay } from './redirect-way.tsx';
import layout from '../style/layout.module.css';

/** Redirects of one state of the site file, by their positions in it. */
interface Selection {
  readonly key: string;
  readonly positions: readonly number[];
}

const A_PAGE = 100;
/** The most that can be changed at once. */
const MOST_AT_ONCE = 5000;

/** The redirects of the site file and of the lists beside it: tens of thousands, searched by the service. */
export function RedirectsPage() {
  const { site, pending } = useOutletContext<SiteFrame>();
  const { query, change } = useAddressState();
  const [selection, setSelection] = useState<Selection>({ key: '', positions: [] });
  const [said, setSaid] = useState('');
  // Positions are those of one state of the file: with the next edit, others may stand there.
  const selected = selection.key === pending.key ? selection.positions : [];
  const select = (positions: readonly number[]): void =>
    setSelection({ key: pending.key, positions });
  const request = requestFrom(query);
  const page = Number(query.get('page') ?? '1');
  const table = useQuery({
    queryKey: ['redirects', site.id, pending.key, request, page],
    queryFn: pending.changes
      ? ({ signal }) =>
          client.redirects(
            site.id,
            { ...request, state: pending.state, skip: (page - 1) * A_PAGE, limit: A_PAGE },
            signal,
          )
      : skipToken,
  });
  const document = useQuery(documentQuery(site.id, pending));
  const error = table.error ?? document.error;
  if (error) return <Failure error={error} retry={() => void table.refetch()} site={site.id} />;
  if (!table.data || !document.data) return <Waiting what="redirects" />;

  const { all, found, findings, rows } = table.data;
  const values = (document.data['redirects'] ?? []) as readonly unknown[];
  const lists = (document.data['redirect-lists'] ?? []) as readonly string[];
  const choices = choicesOf(site.id, pending.state, document.data);
  const isNew = query.get('new') === 'yes';
  const isImport = query.get('import') === 'yes';
  const open = isNew || isImport ? undefined : rows.find((row) => keyOf(row) === query.get('name'));
  const isBeside = isNew || isImport || open !== undefined;
  const close = (news: string): void => {
    setSaid(news);
    change({ name: null, new: null, import: null });
  };
  const filter = (name: string) => (value: string | undefined) =>
    change({ [name]: value ?? null, page: null });
  const selectAll = async (): Promise<void> => {
    const { key } = pending;
    const positions: number[] = [];
    for (let skip = 0; skip < Math.min(found, MOST_AT_ONCE); skip += 1000) {
      const part = await client.redirects(site.id, {
        ...request,
        state: pending.state,
        skip,
        limit: 1000,
      });
      positions.push(...part.rows.flatMap(({ position }) => position ?? []));
    }
    setSelection({ key, positions });
  };

  return (
    <div className={layout.page}>
      <div className={layout.filters} role="search" aria-label="Search in redirects">
        <h1>Redirects</h1>
        <TypedInput
          aria-label="Search redirects"
          placeholder="Search"
          allowClear
          value={query.get('text') ?? ''}
          onType={(text) => change({ text, page: null }, { replace: true })}
        />
        <Choice
          label="Kind"
          value={query.get('kind')}
          onChange={filter('kind')}
          options={['permanent', 'temporary']}
        />
        <Choice
          label="Status"
          value={query.get('status')}
          onChange={filter('status')}
          options={['active', 'scheduled', 'expired']}
        />
        <Choice
          label="Finding"
          value={query.get('finding')}
          onChange={filter('finding')}
          options={['any', 'none', ...Object.keys(findings).sort()]}
          shown={(one) => (findings[one] === undefined ? one : `${one} (${findings[one]})`)}
        />
        {lists.length > 0 && (
          <Choice
            label="In"
            value={query.get('list')}
            onChange={filter('list')}
            options={['site-file', ...lists]}
            shown={(one) => (one === 'site-file' ? 'the site file' : one)}
          />
        )}
        <Button onClick={() => change({ new: 'yes', name: null, import: null })}>
          New redirect
        </Button>
        <Button onClick={() => change({ import: 'yes', name: null, new: null })}>Import</Button>
        {selected.length === 0 && found > 0 && (
          <Button onClick={() => void selectAll()}>Select all {found}</Button>
        )}
        <span className={layout.quiet} role="status">
          {said || (found === all ? `${all} redirects.` : `${found} of ${all} redirects.`)}
        </span>
      </div>
      {selected.length > 0 && (
        <BulkEdit
          values={selected.map((position) => values[position])}
          all={found}
          onSelectAll={() => void selectAll()}
          onDone={(news) => {
            select([]);
            if (news !== '') setSaid(news);
          }}
        />
      )}
      <div className={layout.beside}>
        <TableFrame label="Redirects">
          <Table<queries.RedirectRow>
            size="small"
            rowKey={keyOf}
            dataSource={rows}
            loading={table.isPlaceholderData}
            sticky
            rowHoverable={false}
            rowClassName={(row) => clsx(open && keyOf(row) === keyOf(open) && layout.here)}
            rowSelection={{
              columnWidth: 34,
              // A box in the head would stand in the hidden row by which the table measures itself, too.
              hideSelectAll: true,
              selectedRowKeys: selected.map((position) => `#${position}`),
              preserveSelectedRowKeys: true,
              // What stands in a list is changed there.
              getCheckboxProps: (row) => ({
                disabled:
                  row.position === null || table.isPlaceholderData || document.isPlaceholderData,
                'aria-label': `Select the redirect from ${row.from}`,
              }),
              onChange: (keys) => select(keys.map((key) => Number(String(key).replace('#', '')))),
            }}
            pagination={pagesOf(found, page, A_PAGE)}
            onChange={({ current = 1 }, _, sorter) => {
              const { columnKey, order } = Array.isArray(sorter) ? sorter[0]! : sorter;
              change({
                order: order ? String(columnKey) : null,
                descending: order === 'descend' ? 'yes' : null,
                page: current > 1 && current !== page ? String(current) : null,
              });
            }}
            locale={{
              emptyText:
                all === 0 ? 'The site has no redirects yet.' : 'No redirect fits these filters.',
            }}
            columns={columns(query.get('order'), query.get('descending') === 'yes', isBeside).map(
              (column) =>
                column.key === 'from'
                  ? {
                      ...column,
                      render: (_: unknown, row: queries.RedirectRow) => (
                        <Button
                          type="link"
                          size="small"
                          className={clsx(layout.name)}
                          aria-label={`Open the redirect from ${row.from}`}
                          onClick={() => change({ name: keyOf(row), new: null, import: null })}
                        >
                          <code>{row.from}</code>
                        </Button>
                      ),
                    }
                  : column,
            )}
          />
        </TableFrame>
        {isImport && <ImportPanel onClose={close} />}
        {(isNew || (open && open.position !== null)) && (
          <EntryPanel
            key={`${open?.position ?? 'new'} ${JSON.stringify(open && values[open.position!])}`}
            section={REDIRECTS}
            name={open ? open.from : null}
            value={open ? values[open.position!] : { from: query.get('from') ?? '' }}
            choices={choices}
            entries={values}
            above={open && <RedirectWay row={open} />}
            onClose={close}
          />
        )}
        {open?.position === null && (
          <aside className={layout.panel} aria-label={`Redirect ${open.from}`}>
            <PanelHead
              title={
                <>
                  Redirect <code>{open.from}</code>
                </>
              }
              onClose={() => close('')}
            />
            <RedirectWay row={open} />
          </aside>
        )}
      </div>
    </div>
  );
}

const keyOf = ({ position, list, line }: queries.RedirectRow): string =>
  position === null ? `${list}:${line}` : `#${position}`;

function requestFrom(query: URLSearchParams): RedirectsRequest {
  const text = (name: string): string | undefined => query.get(name) ?? undefined;
  const list = text('list');
  return {
    search: text('text'),
    kind: text('kind') as RedirectsRequest['kind'],
    status: text('status') as RedirectsRequest['status'],
    finding: text('finding'),
    list: list === 'site-file' ? '' : list,
    order: text('order') as RedirectsRequest['order'],
    descending: query.get('descending') === 'yes' ? true : undefined,
  };
}

interface ChoiceProps {
  readonly label: string;
  readonly value: string | null;
  readonly options: readonly string[];
  readonly shown?: (option: string) => string;
  onChange(value: string | undefined): void;
}

function Choice({ label, value, options, shown = (one) => one, onChange }: ChoiceProps) {
  return (
    <Select
      aria-label={label}
      placeholder={label}
      allowClear
      popupMatchSelectWidth={false}
      value={value}
      onChange={(next: string | undefined) => onChange(next)}
      options={options.map((option) => ({ value: option, label: shown(option) }))}
    />
  );
}
