import { clsx } from 'clsx';
import { useMemo } from 'react';
import { Button, Checkbox, Select } from 'antd';
import { useQuery } from '@tanstack/react-query';
import { useOutletContext } from 'react-router';
import { countPages, OUTCOME_WORDS, type GatewayInfo } from '@kleidon/client';
import type { decisions } from '@kleidon/core';
import { client } from '../client.ts';
import { Failure, Waiting } from '../shell/notices.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import { StateChoice } from '../shell/state-choice.tsx';
import { onDemand } from '../shell/on-demand.ts';
import { MomentField } from '../shell/moment-field.tsx';
import { TypedInput } from '../shell/typed-input.tsx';
import { useAddressState } from '../use-address-state.ts';
import { ReachGrid, type CellAt } from './reach-grid.tsx';
import { gridQuery, kindsQuery } from './kinds-query.ts';
import { forVisitors, occurring, sectionsOf, shownRows } from './rows.ts';
import layout from '../style/layout.module.css';

const VisitPanel = onDemand(
  'VisitPanel',
  async () => (await import('../visit/visit-panel.tsx')).VisitPanel,
);

/** The reach grid: pages against visitors, and the visit behind a cell beside it. */
export function GridPage() {
  const { site, pending } = useOutletContext<SiteFrame>();
  const { query, change } = useAddressState();
  const state = query.get('state') ?? pending.state;
  const at = query.get('at') ?? '';
  const text = query.get('text') ?? '';
  const under = query.get('under') ?? '';
  const outcomes = query.getAll('outcome');
  const only = query.getAll('only');
  const differ = query.get('differ') === 'yes';
  const isOfKinds = query.get('kinds') === 'yes';
  const folded = query.getAll('folded');
  const cell = cellFrom(query.get('page'), query.get('visitor'));
  const isOpen = query.get('visit') === 'open' && cell?.visitor !== undefined;

  // Which kinds there are depends on the section; which visitors are listed does not.
  const section = query.get('under') ?? '';
  const grid = useQuery(gridQuery(site.id, pending.key, state, at, isOfKinds ? section : null));
  const kinds = useQuery({
    ...kindsQuery(site.id, pending.key, state, at, section),
    enabled: isOfKinds,
  });
  const gateway = useQuery({
    queryKey: ['gateway', site.id],
    queryFn: () => client.gateway(site.id),
  });
  // Lists from the address are new with each render; their texts are not.
  const [outcomeKey, foldedKey, onlyKey] = [outcomes, folded, only].map((list) => list.join('\n'));
  const shown = useMemo(
    () => grid.data && forVisitors(grid.data, lines(onlyKey!)),
    [grid.data, onlyKey],
  );
  const rows = useMemo(
    () =>
      shown &&
      shownRows(shown, {
        text,
        under,
        outcomes: lines(outcomeKey!),
        differ,
        folded: new Set(lines(foldedKey!)),
      }),
    [shown, text, under, outcomeKey, differ, foldedKey],
  );

  // Counting goes over every cell: once for each grid, not with each key.
  const counts = useMemo(() => shown && occurring(shown), [shown]);
  const sections = useMemo(() => grid.data && sectionsOf(grid.data), [grid.data]);

  if (grid.error)
    return <Failure error={grid.error} retry={() => void grid.refetch()} site={site.id} />;
  if (!grid.data || !shown || !rows || !counts || !sections) return <Waiting what="the grid" />;
  const select = (next: CellAt, open: boolean): void =>
    change(
      { page: next.page, visitor: next.visitor ?? null, visit: open || isOpen ? 'open' : null },
      { replace: !open },
    );
  const visited = isOpen
    ? grid.data.rows.find(({ address }) => address === cell.page)?.visited
    : undefined;

  const kind = kinds.data?.kinds.find(({ name }) => name === cell?.visitor);
  const who = kind ? { visitor: kind.example } : { as: cell?.visitor ?? '' };

  return (
    <div className={layout.page}>
      <div className={layout.filters} role="search" aria-label="Filters of the grid">
        <h1>Reach grid</h1>
        <StateChoice value={state} onChange={(next) => change({ state: next })} />
        <TypedInput
          aria-label="Search pages"
          placeholder="Address or title"
          allowClear
          value={text}
          onType={(text) => change({ text }, { replace: true })}
        />
        <Select
          aria-label="Section"
          showSearch
          popupMatchSelectWidth={false}
          value={under}
          onChange={(next: string) => change({ under: next })}
          options={[
            { value: '', label: 'All sections' },
            ...sections.map((value) => ({ value, label: value })),
          ]}
        />
        <Select
          aria-label="Outcomes"
          mode="multiple"
          className={clsx(layout.outcomes)}
          placeholder="All outcomes"
          value={outcomes}
          onChange={(next: string[]) => change({ outcome: next })}
          options={[...counts].map(([value, number]) => ({
            value,
            label: `${OUTCOME_WORDS[value].sign} ${OUTCOME_WORDS[value].word} (${number})`,
          }))}
        />
        <Select
          aria-label="Visitors"
          mode="multiple"
          className={clsx(layout.outcomes)}
          placeholder="All visitors"
          maxTagCount="responsive"
          showSearch={{ optionFilterProp: 'label' }}
          value={only}
          onChange={(next: string[]) => change({ only: next })}
          options={grid.data.visitors.map(({ name, title, summary }) => ({
            value: name,
            label: `${title} (${summary})`,
          }))}
        />
        <Select
          aria-label="Columns"
          popupMatchSelectWidth={false}
          value={isOfKinds ? 'kinds' : 'listed'}
          onChange={(next: string) =>
            change({ kinds: next === 'kinds' ? 'yes' : null, only: null, visitor: null })
          }
          options={[
            { value: 'listed', label: 'Visitors of the site file' },
            { value: 'kinds', label: 'Kinds of visitors' },
          ]}
        />
        <Checkbox
          checked={differ}
          onChange={({ target }) => change({ differ: target.checked ? 'yes' : null })}
        >
          Where they differ
        </Checkbox>
        <MomentField value={at} onChange={(next) => change({ at: next }, { replace: true })} />
        <span className={layout.quiet} role="status">
          {countPages(rows.map(({ row }) => row))} of {countPages(grid.data.rows)} pages
        </span>
        {(text || under || outcomes.length > 0 || only.length > 0 || differ || at) && (
          <Button
            onClick={() =>
              change({ text: null, under: null, outcome: null, only: null, differ: null, at: null })
            }
          >
            Clear
          </Button>
        )}
      </div>
      <div className={layout.beside}>
        {rows.length === 0 ? (
          <p className={layout.notice}>
            {grid.data.rows.length === 0
              ? 'The site file has no pages yet. Add some under "pages", or import a sitemap.'
              : 'No page fits these filters.'}
          </p>
        ) : (
          <ReachGrid
            grid={shown}
            rows={rows}
            cell={cell}
            onSelect={select}
            onFold={(address) =>
              change(
                {
                  folded: folded.includes(address)
                    ? folded.filter((one) => one !== address)
                    : [...folded, address],
                },
                { replace: true },
              )
            }
          />
        )}
        {isOpen && visited !== undefined && (kind !== undefined || !isOfKinds) && (
          <VisitPanel
            site={site.id}
            request={{ address: visited, state, ...who, ...(at ? { at } : {}) }}
            version={pending.key}
            openAt={
              kind ? null : openAt(gateway.data?.gateway ?? null, grid.data, cell.visitor, visited)
            }
            onClose={() => change({ visit: null })}
          />
        )}
      </div>
    </div>
  );
}

/** Where a page is opened as a visitor for real; only before a test provider, which takes everyone at their word. */
function openAt(
  gateway: GatewayInfo | null,
  { visitors }: decisions.Grid,
  name: string,
  address: string,
): string | null {
  if (!gateway?.testProvider) return null;
  const isGuest = visitors.find((one) => one.name === name)?.summary === 'guest';
  const query = new URLSearchParams({ as: isGuest ? '' : name, to: address });
  return `${gateway.publicAddress}/.kleidon/open-as?${query.toString()}`;
}

const lines = (text: string): string[] => (text === '' ? [] : text.split('\n'));

function cellFrom(page: string | null, visitor: string | null): CellAt | null {
  if (page === null) return null;
  return visitor === null ? { page } : { page, visitor };
}
