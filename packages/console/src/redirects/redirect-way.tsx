import { Select } from 'antd';
import { useQuery } from '@tanstack/react-query';
import { Link, useOutletContext } from 'react-router';
import type { queries } from '@kleidon/core';
import { client } from '../client.ts';
import { namesQuery } from '../changes/names-query.ts';
import { Failure, Waiting } from '../shell/notices.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import { useAddressState } from '../use-address-state.ts';
import { ruleAddress } from '../visit/visit-panel.tsx';
import { ChainView } from '../visit/chain-view.tsx';

const GUEST = '';

/** Where a redirect leads now, as one visitor meets it, and where it is written. */
export function RedirectWay({ row }: { row: queries.RedirectRow }) {
  const { site, pending } = useOutletContext<SiteFrame>();
  const { query, change } = useAddressState();
  const as = query.get('as') ?? GUEST;
  const names = useQuery(namesQuery(site.id, pending));
  const who = as === GUEST ? { visitor: { guest: true } } : { as };
  const request = { address: row.example, state: pending.state, ...who };
  const visit = useQuery({
    queryKey: ['visit', site.id, pending.key, request],
    queryFn: ({ signal }) => client.visit(site.id, request, signal),
  });
  return (
    <section aria-label="Where it redirects to">
      <h2>
        Where it redirects to{' '}
        <Select
          size="small"
          aria-label="As"
          value={as}
          popupMatchSelectWidth={false}
          onChange={(next: string) => change({ as: next })}
          options={[
            { value: GUEST, label: 'a guest' },
            ...(names.data?.visitors ?? []).map(({ name, title }) => ({
              value: name,
              label: title,
            })),
          ]}
        />
      </h2>
      {visit.error ? (
        <Failure error={visit.error} retry={() => void visit.refetch()} />
      ) : visit.data ? (
        <ChainView visit={visit.data} />
      ) : (
        <Waiting what="the visit" />
      )}
      <p>
        {row.list === null ? (
          <Link to={ruleAddress(site.id, pending.state, row.line)}>
            In the site file, line {row.line}
          </Link>
        ) : (
          <Link to={`/sites/${site.id}/addresses/lists?name=${encodeURIComponent(row.list)}`}>
            In {row.list}, line {row.line}
          </Link>
        )}
      </p>
    </section>
  );
}
