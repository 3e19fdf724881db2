import { useQuery } from '@tanstack/react-query';
import { Link, useOutletContext } from 'react-router';
import type { PurchaseSummary } from '@kleidon/client';
import { client } from '../client.ts';
import { EVERY_TEN_SECONDS } from '../query-client.ts';
import { Failure, Waiting } from '../shell/notices.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import { Card } from './card.tsx';
import layout from '../style/layout.module.css';

/** How many purchases are in force, which end soon, and what of the shops' events needs someone. */
export function PurchasesCard() {
  const { site } = useOutletContext<SiteFrame>();
  const base = `/sites/${site.id}/visitors`;
  const summary = useQuery({
    queryKey: ['purchase-summary', site.id, ''],
    queryFn: () => client.purchaseSummary(site.id),
    refetchInterval: EVERY_TEN_SECONDS,
  });
  return (
    <Card title="Purchases" to={`${base}/purchases`} more="All purchases">
      {summary.error && !summary.data ? (
        <Failure error={summary.error} retry={() => void summary.refetch()} />
      ) : summary.data ? (
        <Counted summary={summary.data} base={base} />
      ) : (
        <Waiting what="the purchases" />
      )}
    </Card>
  );
}

function Counted({
  summary: { products, shops, rejected, pending },
  base,
}: {
  summary: PurchaseSummary;
  base: string;
}) {
  const inForce = products.reduce((sum, one) => sum + one.inForce, 0);
  const ending = products.flatMap((one) => one.ending).reduce((sum, count) => sum + count, 0);
  const open = pending.products.length + pending.withoutPurchase.found;
  if (shops.length === 0 && inForce === 0)
    return <p className={layout.quiet}>No shop tells of purchases.</p>;
  return (
    <>
      <p>
        {inForce.toLocaleString()} in force; {ending.toLocaleString()} of them end in the next 90
        days.
      </p>
      {rejected + open > 0 && (
        <p>
          <Link to={`${base}/events`}>
            <span aria-hidden>! </span>
            {rejected > 0 && `${rejected} ${rejected === 1 ? 'event' : 'events'} rejected`}
            {rejected > 0 && open > 0 && ', '}
            {open > 0 && `${open} pending`}
          </Link>
        </p>
      )}
    </>
  );
}
