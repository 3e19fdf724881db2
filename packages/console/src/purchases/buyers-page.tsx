import { useState } from 'react';
import { Button, Checkbox, Input, Popconfirm } from 'antd';
import { skipToken, useMutation, useQuery } from '@tanstack/react-query';
import { Link, useOutletContext } from 'react-router';
import type { BuyerName, KnownPurchase, MadeUpVisitor } from '@kleidon/client';
import { namesQuery } from '../changes/names-query.ts';
import { client } from '../client.ts';
import { ReachedByView } from '../entries/reached-by.tsx';
import { Moment } from '../live/moment.tsx';
import { Failure, Waiting } from '../shell/notices.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import { MomentField } from '../shell/moment-field.tsx';
import { useAddressState } from '../use-address-state.ts';
import { visitAddress } from '../visit/visit-address.ts';
import { GrantForm } from './grant-form.tsx';
import { Period, StateTag } from './standing.tsx';
import { EVENTS } from './state-words.ts';
import css from './purchases.module.css';
import live from '../live/live.module.css';
import layout from '../style/layout.module.css';

/** A buyer: what they bought, what made it so, and what they reach with it, now or at any time. */
export function BuyersPage() {
  const { site, pending } = useOutletContext<SiteFrame>();
  const { query, change } = useAddressState();
  const buyer = query.get('buyer') ?? '';
  const at = query.get('at') ?? '';
  const [typed, setTyped] = useState(buyer);
  const isAddress = buyer.includes('@');
  const moment = at === '' ? {} : { at };
  const found = useQuery({
    queryKey: ['purchases', site.id, buyer, at],
    queryFn:
      buyer === ''
        ? skipToken
        : () =>
            client.purchases(site.id, {
              ...(isAddress ? { email: buyer } : { visitor: buyer, order: buyer }),
              ...moment,
            }),
  });
  const action = useMutation({
    mutationFn: (work: () => Promise<string>) => work(),
    onSuccess: () => found.refetch(),
  });
  const purchases = found.data?.purchases ?? [];
  const titles = useQuery(namesQuery(site.id, pending)).data?.products ?? {};
  return (
    <div className={layout.page}>
      <form
        className={layout.filters}
        onSubmit={(event) => {
          event.preventDefault();
          change({ buyer: typed.trim() });
        }}
      >
        <h1>Buyers</h1>
        <Input.Search
          aria-label="E-mail address, id or order of a buyer"
          placeholder="E-mail address, id or order"
          className={css.buyer}
          value={typed}
          autoFocus
          onChange={({ target }) => setTyped(target.value)}
          onSearch={(text) => change({ buyer: text.trim() })}
        />
        <MomentField value={at} onChange={(next) => change({ at: next }, { replace: true })} />
        <span role="status" className={layout.quiet}>
          {action.data}
        </span>
      </form>
      <div className={live.live}>
        {action.error && <Failure error={action.error} />}
        {buyer === '' ? (
          <p className={layout.quiet}>
            Look for a buyer by their e-mail address, their id on the website, or an order.
          </p>
        ) : found.error ? (
          <Failure error={found.error} retry={() => void found.refetch()} />
        ) : !found.data ? (
          <Waiting what="the purchases" />
        ) : purchases.length === 0 ? (
          <p>
            Nobody has told of a purchase by <strong>{buyer}</strong>
            {at !== '' && ' by then'}. They have what their sign-in claims of them, and nothing
            else.
          </p>
        ) : (
          <>
            <section aria-label="Purchases">
              {purchases.map((one) => (
                <Purchase
                  key={`${one.shop}/${one.purchase}`}
                  one={one}
                  title={titles[one.product] ?? one.product}
                  end={() =>
                    action.mutate(async () => {
                      await client.endGrant(site.id, one.purchase);
                      return `${one.purchase} has ended.`;
                    })
                  }
                />
              ))}
            </section>
            <AsBuyer site={site.id} buyer={buyer} purchases={purchases} at={at} />
          </>
        )}
        {isAddress && (
          <>
            <GrantForm site={site.id} email={buyer} done={() => void found.refetch()} />
            <EraseBuyer
              buyer={buyer}
              others={found.data?.others ?? []}
              erase={(others) =>
                action.mutate(async () => {
                  let count = 0;
                  for (const one of [{ email: buyer, visitor: null }, ...others]) {
                    const name =
                      one.email === null ? { visitor: one.visitor! } : { email: one.email };
                    count += (await client.eraseBuyer(site.id, name)).events;
                  }
                  return `Erased from ${count === 1 ? '1 event' : `${count} events`}.`;
                })
              }
            />
          </>
        )}
      </div>
    </div>
  );
}

/** Erases an address, and those of the other names of the same purchases that are chosen. */
function EraseBuyer({
  buyer,
  others,
  erase,
}: {
  buyer: string;
  others: readonly BuyerName[];
  erase: (others: readonly BuyerName[]) => void;
}) {
  const [chosen, setChosen] = useState<readonly string[]>([]);
  const textOf = ({ email, visitor }: BuyerName): string => email ?? `id ${visitor}`;
  return (
    <p>
      <Popconfirm
        title={`Erase ${buyer}?`}
        description={
          <>
            <p>The purchases are kept for counting. This cannot be undone.</p>
            {others.length > 0 && (
              <>
                <p>Other names have the same purchases, and keep them. Erase them too:</p>
                <Checkbox.Group
                  options={others.map(textOf)}
                  value={[...chosen]}
                  onChange={setChosen}
                />
              </>
            )}
          </>
        }
        okText="Erase"
        onConfirm={() => erase(others.filter((one) => chosen.includes(textOf(one))))}
      >
        <Button>Erase this buyer</Button>
      </Popconfirm>
    </p>
  );
}

/** What one reaches who has bought this, and nothing else. */
function AsBuyer({
  site,
  buyer,
  purchases,
  at,
}: {
  site: string;
  buyer: string;
  purchases: readonly KnownPurchase[];
  at: string;
}) {
  const { site: own, pending } = useOutletContext<SiteFrame>();
  const state = own.live === null ? 'draft' : 'live';
  const visitor = visitorOf(buyer, purchases);
  return (
    <>
      <p>
        <Link to={visitAddress(site, '/', { visitor, state, at })}>
          Try an address as this buyer
        </Link>{' '}
        <span className={layout.quiet}>
          Below is the {state === 'live' ? 'live release' : 'draft'} for whoever is signed in and
          has bought this; roles and groups that their sign-in claims come on top.
        </span>
      </p>
      <ReachedByView
        site={site}
        state={state}
        visitor={buyer}
        madeUp={visitor}
        at={at}
        version={pending.key}
      />
    </>
  );
}

/** The buyer as a site file declares a visitor. */
function visitorOf(buyer: string, purchases: readonly KnownPurchase[]): MadeUpVisitor {
  const id = purchases.find(({ visitor }) => visitor !== null)?.visitor;
  return {
    title: buyer,
    ...(id ? { id } : {}),
    bought: purchases.map(({ product, from, until, refunded, paused }) => ({
      product,
      ...(from === null ? {} : { from }),
      ...(until === null ? {} : { until }),
      ...(refunded ? { refunded } : {}),
      ...(paused ? { paused } : {}),
    })),
  };
}

function Purchase({ one, title, end }: { one: KnownPurchase; title: string; end: () => void }) {
  const { shop, purchase, events, email, visitor } = one;
  const isGrant = shop === 'by-hand';
  return (
    <article className={css.purchase}>
      <h2>
        {title} <StateTag {...one} />
      </h2>
      <p className={layout.quiet}>
        <Period {...one} />; {isGrant ? 'granted by hand' : `sold by ${shop}`} as{' '}
        <code>{purchase}</code>
        {email !== null && <>; {email}</>}
        {visitor !== null && <>; id {visitor}</>}
      </p>
      <ol className={layout.plain}>
        {events.map((event) => (
          <li key={`${event.shop} ${event.id}`}>
            <Moment at={event.at} />:{' '}
            {isGrant && event.type === 'purchase.made'
              ? 'granted'
              : (EVENTS[event.type] ?? event.type)}
            {event.partly && ' in part'}
            {event.until !== null && (
              <>
                , until <Moment at={event.until} />
              </>
            )}
            {event.note !== null && `: ${event.note}`}
          </li>
        ))}
      </ol>
      {isGrant && one.state === 'in-force' && !one.cancelled && (
        <Button size="small" onClick={end} aria-label={`End ${purchase}`}>
          End now
        </Button>
      )}
    </article>
  );
}
