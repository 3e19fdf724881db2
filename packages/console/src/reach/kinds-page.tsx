import { Select } from 'antd';
import { useMemo } from 'react';
import { useQuery } from '@tanstack/react-query';
import { Link, useOutletContext } from 'react-router';
import { documentQuery } from '../changes/document-query.ts';
import { Failure, Waiting } from '../shell/notices.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import { StateChoice } from '../shell/state-choice.tsx';
import { TableFrame } from '../shell/table-frame.tsx';
import layout from '../style/layout.module.css';
import { useAddressState } from '../use-address-state.ts';
import { kindsQuery } from './kinds-query.ts';
import css from './kinds.module.css';

/** The kinds of visitors that the rules tell apart, of the whole site or of a section. */
export function KindsPage() {
  const { site, pending } = useOutletContext<SiteFrame>();
  const { query, change } = useAddressState();
  const state = query.get('state') ?? pending.state;
  const under = query.get('under') ?? '';
  const kinds = useQuery(kindsQuery(site.id, pending.key, state, '', under));
  const document = useQuery(documentQuery(site.id, pending)).data;
  const sections = useMemo(() => sectionsIn(document?.['pages']), [document]);
  const inGrid = new URLSearchParams({
    kinds: 'yes',
    ...(under === '' ? {} : { under }),
    ...(query.get('state') === null ? {} : { state }),
  });
  const base = `/sites/${site.id}`;
  return (
    <div className={layout.page}>
      <div className={layout.filters}>
        <h1>Kinds of visitors</h1>
        <StateChoice value={state} onChange={(next) => change({ state: next })} />
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
        <Link to={`${base}/reach?${inGrid.toString()}`}>See them in the grid</Link>
        <span className={layout.grow} />
        {kinds.data && (
          <span className={layout.quiet} role="status">
            {kinds.data.kinds.length} {kinds.data.kinds.length === 1 ? 'kind' : 'kinds'}
            {kinds.data.mostTraits !== null &&
              ` of visitors with at most ${kinds.data.mostTraits} of roles, groups and purchases: there are too many of everyone`}
          </span>
        )}
      </div>
      {kinds.error ? (
        <Failure error={kinds.error} retry={() => void kinds.refetch()} site={site.id} />
      ) : kinds.data ? (
        <TableFrame label="Kinds of visitors">
          <table className={css.kinds}>
            <thead>
              <tr>
                <th scope="col">Such as</th>
                <th scope="col">Pages</th>
                <th scope="col">Who is of this kind</th>
                <th scope="col">Listed visitors</th>
              </tr>
            </thead>
            <tbody>
              {kinds.data.kinds.map(({ name, summary, pages, words, visitors, example }) => (
                <tr key={name}>
                  <th scope="row">
                    <Link to={`${base}/reach/address?${tryAs(example, state)}`}>{summary}</Link>
                  </th>
                  <td className={css.number}>
                    {pages} of {kinds.data.pages}
                  </td>
                  <td>{words}</td>
                  <td>
                    {visitors.length > 0 ? (
                      visitors.join(', ')
                    ) : (
                      <span className={layout.quiet}>nobody</span>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </TableFrame>
      ) : (
        <Waiting what="the kinds of visitors" />
      )}
    </div>
  );
}

/** The query of the page that tries an address as someone made up. */
const tryAs = (visitor: object, state: string): string =>
  new URLSearchParams({
    address: '/',
    as: 'someone',
    visitor: JSON.stringify(visitor),
    ...(state === 'draft' ? {} : { state }),
  }).toString();

/** The sections of a site that has pages at these addresses. */
function sectionsIn(pages: unknown): string[] {
  const addresses = Object.keys(pages ?? {});
  const above = addresses.map((address) => /^(\/[^/:*]+)\//.exec(address)?.[1] ?? '');
  return [...new Set(above)].filter(Boolean).sort();
}
