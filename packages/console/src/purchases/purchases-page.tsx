import { clsx } from 'clsx';
import { Button, Select, Table } from 'antd';
import { useMutation, useQuery } from '@tanstack/react-query';
import { Link, useOutletContext } from 'react-router';
import type { StandingPurchase } from '@kleidon/client';
import { client } from '../client.ts';
import { EVERY_TEN_SECONDS } from '../query-client.ts';
import { Failure, Waiting } from '../shell/notices.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import { TableFrame } from '../shell/table-frame.tsx';
import { MomentField } from '../shell/moment-field.tsx';
import { useAddressState } from '../use-address-state.ts';
import { CountsTable } from './counts-table.tsx';
import { Period, StateTag } from './standing.tsx';
import { STATES } from './state-words.ts';
import live from '../live/live.module.css';
import layout from '../style/layout.module.css';

type State = StandingPurchase['state'];
const A_PAGE = 100;

/** How many purchases of each product there are, were and will be; and each of them. */
export function PurchasesPage() {
  const { site } = useOutletContext<SiteFrame>();
  const { query, change } = useAddressState();
  const at = query.get('at') ?? '';
  const product = query.get('product') ?? undefined;
  const state = (query.get('stands') ?? undefined) as State | undefined;
  const after = query.get('after') ?? undefined;
  const moment = at === '' ? undefined : at;
  const summary = useQuery({
    queryKey: ['purchase-summary', site.id, at],
    queryFn: () => client.purchaseSummary(site.id, moment),
    refetchInterval: EVERY_TEN_SECONDS,
    placeholderData: (before) => before,
  });
  const list = useQuery({
    queryKey: ['purchase-list', site.id, at, product, state, after],
    queryFn: () =>
      client.purchaseList(site.id, { at: moment, product, state, after, limit: A_PAGE }),
    refetchInterval: EVERY_TEN_SECONDS,
    placeholderData: (before) => before,
  });
  const saving = useMutation({
    mutationFn: async () => {
      const text = await client.purchaseListCsv(site.id, { at: moment, product, state });
      saveAs(`${site.id}-purchases.csv`, text);
    },
  });
  if (summary.error && !summary.data)
    return <Failure error={summary.error} retry={() => void summary.refetch()} />;
  if (!summary.data) return <Waiting what="the purchases" />;
  const { pending, rejected, products } = summary.data;
  const base = `/sites/${site.id}/visitors`;
  const listOf = (name: string, stands: string): string =>
    `${base}/purchases?${new URLSearchParams({ product: name, stands, ...(at ? { at } : {}) }).toString()}`;
  const buyer = (one: StandingPurchase): string =>
    `${base}/buyers?${new URLSearchParams({ buyer: one.email ?? one.visitor ?? one.purchase }).toString()}`;
  const open = pending.products.length + pending.withoutPurchase.found + rejected;
  return (
    <div className={layout.page}>
      <div className={layout.filters}>
        <h1>Purchases</h1>
        <MomentField
          value={at}
          onChange={(next) => change({ at: next, after: null }, { replace: true })}
        />
        {open > 0 && (
          <Link to={`${base}/events`}>
            <span aria-hidden>! </span>
            {open === 1 ? '1 event' : `${open} events`} of shops pending or rejected
          </Link>
        )}
      </div>
      <div className={live.live}>
        {products.length === 0 && site.live === null && site.draft.errors > 0 ? (
          <p className={layout.notice}>
            What the site sells is not known yet: its{' '}
            <Link to={`/sites/${site.id}/file`}>site file</Link> has errors.
          </p>
        ) : products.length === 0 ? (
          <p className={layout.notice}>
            The site sells nothing: its site file has no products. Declare them under{' '}
            <Link to={`${base}/products`}>Products</Link>.
          </p>
        ) : (
          <TableFrame label="Purchases by product" inPage>
            <CountsTable summary={summary.data} listOf={listOf} />
          </TableFrame>
        )}
        <div className={clsx(layout.filters, live.bar)}>
          <h2>All purchases</h2>
          <Select
            aria-label="Product"
            allowClear
            placeholder="Every product"
            popupMatchSelectWidth={false}
            value={product}
            onChange={(next?: string) => change({ product: next ?? null, after: null })}
            options={products.map(({ product: value, title }) => ({
              value,
              label: title ?? value,
            }))}
          />
          <Select
            aria-label="How they stand"
            allowClear
            placeholder="However they stand"
            popupMatchSelectWidth={false}
            value={state}
            onChange={(next?: State) => change({ stands: next ?? null, after: null })}
            options={Object.entries(STATES).map(([value, [, label]]) => ({ value, label }))}
          />
          <Button onClick={() => saving.mutate()} loading={saving.isPending}>
            Save as CSV
          </Button>
        </div>
        {saving.error && <Failure error={saving.error} />}
        {list.error && <Failure error={list.error} retry={() => void list.refetch()} />}
        <TableFrame label="All purchases" inPage>
          <Table<StandingPurchase>
            size="small"
            rowKey={({ shop, purchase }) => `${shop}/${purchase}`}
            dataSource={list.data?.purchases ?? []}
            loading={!list.data && !list.error}
            rowHoverable={false}
            pagination={false}
            locale={{
              emptyText: product || state ? 'None of these.' : 'Nobody has bought anything yet.',
            }}
            columns={[
              {
                title: 'Buyer',
                key: 'buyer',
                width: 220,
                render: (_, one) =>
                  one.email === null && one.visitor === null ? (
                    <span className={layout.quiet}>forgotten</span>
                  ) : (
                    <Link to={buyer(one)}>{one.email ?? one.visitor}</Link>
                  ),
              },
              { title: 'Product', key: 'product', width: 140, render: (_, one) => one.product },
              {
                title: 'Stands',
                key: 'state',
                width: 190,
                render: (_, one) => <StateTag {...one} />,
              },
              { title: 'Period', key: 'period', render: (_, one) => <Period {...one} /> },
              {
                title: 'Purchase',
                key: 'purchase',
                width: 240,
                render: (_, { shop, purchase }) => (
                  <code>
                    {shop}/{purchase}
                  </code>
                ),
              },
            ]}
          />
        </TableFrame>
        {list.data && (after !== undefined || list.data.next !== null) && (
          <p className={layout.buttons}>
            <Button disabled={after === undefined} onClick={() => change({ after: null })}>
              First
            </Button>{' '}
            <Button
              disabled={list.data.next === null}
              onClick={() => change({ after: list.data.next })}
            >
              Next {A_PAGE}
            </Button>
          </p>
        )}
      </div>
    </div>
  );
}

/** Lets the browser save a text as a file. */
function saveAs(name: string, text: string): void {
  const address = URL.createObjectURL(new Blob([text], { type: 'text/csv' }));
  const link = document.createElement('a');
  link.href = address;
  link.download = name;
  link.click();
  URL.revokeObjectURL(address);
}
