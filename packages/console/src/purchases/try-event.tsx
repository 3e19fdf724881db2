import { useState } from 'react';
import { Button, Input, Select } from 'antd';
import { useMutation } from '@tanstack/react-query';
import type { TriedEvent } from '@kleidon/client';
import { client } from '../client.ts';
import { Moment } from '../live/moment.tsx';
import { Failure } from '../shell/notices.tsx';
import { Period, StateTag } from './standing.tsx';
import { EVENTS } from './state-words.ts';
import css from './purchases.module.css';
import layout from '../style/layout.module.css';

const RESULTS: Readonly<Record<TriedEvent['result'], string>> = {
  new: '✓ It would be applied.',
  known: '– It is known already, and would change nothing.',
  ignored: '– The settings ignore events of this type.',
  rejected: '× It would be rejected.',
  erases: '! The buyer would be forgotten.',
};

/** Shows what an event that is pasted here would become; nothing is kept. */
export function TryEvent({ site, shops }: { site: string; shops: readonly string[] }) {
  const [chosen, setShop] = useState<string>();
  const shop = chosen ?? shops[0] ?? null;
  const [header, setHeader] = useState('');
  const [body, setBody] = useState('');
  const trial = useMutation({
    mutationFn: () => {
      const [name = '', ...value] = header.split(':');
      const headers =
        name.trim() === '' ? [] : [{ name: name.trim(), value: value.join(':').trim() }];
      return client.tryShopEvent(site, { shop: shop!, body, headers });
    },
  });
  return (
    <details className={css.grant}>
      <summary>See what an event would become</summary>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          trial.mutate();
        }}
      >
        <label>
          Shop
          <Select
            aria-label="Shop"
            value={shop}
            placeholder="No shop in the settings"
            popupMatchSelectWidth={false}
            onChange={(next: string) => setShop(next)}
            options={shops.map((value) => ({ value, label: value }))}
          />
        </label>
        <label>
          Header with its type, if there is one
          <Input
            value={header}
            onChange={({ target }) => setHeader(target.value)}
            placeholder="X-Topic: order"
          />
        </label>
        <label className={css.note}>
          What the shop sends, as JSON
          <Input.TextArea
            className={layout.code!}
            rows={6}
            value={body}
            spellCheck={false}
            onChange={({ target }) => setBody(target.value)}
          />
        </label>
        <Button
          htmlType="submit"
          disabled={shop === null || body.trim() === ''}
          loading={trial.isPending}
        >
          Try it
        </Button>
      </form>
      {trial.error && <Failure error={trial.error} />}
      <div role="status">{trial.data && <Tried tried={trial.data} />}</div>
    </details>
  );
}

function Tried({ tried: { result, event, problem, warnings, purchase } }: { tried: TriedEvent }) {
  return (
    <>
      <p>
        <strong>{RESULTS[result]}</strong> {problem}
      </p>
      {event && (
        <p>
          <Moment at={event.at} />: {EVENTS[event.type] ?? event.type}
          {event.purchase !== null && `, purchase ${event.purchase}`}
          {event.product !== null && `, product ${event.product}`}
          {(event.email ?? event.visitor) !== null && `, buyer ${event.email ?? event.visitor}`}
          {event.until !== null && (
            <>
              , until <Moment at={event.until} />
            </>
          )}
        </p>
      )}
      {warnings.map((one) => (
        <p key={one}>! {one}</p>
      ))}
      {purchase && (
        <p>
          Then: {purchase.product} <StateTag {...purchase} />, <Period {...purchase} />
        </p>
      )}
    </>
  );
}
