import { useState } from 'react';
import { Button, Input, Select } from 'antd';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useOutletContext } from 'react-router';
import { client } from '../client.ts';
import { namesQuery } from '../changes/names-query.ts';
import { Failure } from '../shell/notices.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import css from './purchases.module.css';

/** Gives someone access by hand, until a day or without end. */
export function GrantForm({
  site,
  email,
  done,
}: {
  site: string;
  email: string;
  done: () => void;
}) {
  const { pending } = useOutletContext<SiteFrame>();
  const products = useQuery(namesQuery(site, pending)).data?.products ?? {};
  const [product, setProduct] = useState<string>();
  const [until, setUntil] = useState('');
  const [note, setNote] = useState('');
  const grant = useMutation({
    mutationFn: () =>
      client.grantAccess(site, { product: product!, email, note, ...(until ? { until } : {}) }),
    onSuccess: () => {
      setNote('');
      done();
    },
  });
  const missing =
    product === undefined ? 'Choose a product.' : note.trim() === '' ? 'Say why.' : '';
  return (
    <details className={css.grant}>
      <summary>Grant access by hand</summary>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          if (missing === '') grant.mutate();
        }}
      >
        <label>
          Product
          <Select
            aria-label="Product to grant"
            value={product ?? null}
            placeholder="Choose one"
            popupMatchSelectWidth={false}
            onChange={(next: string) => setProduct(next)}
            options={Object.entries(products).map(([value, label]) => ({
              value,
              label: label || value,
            }))}
          />
        </label>
        <label>
          Until
          <Input type="date" value={until} onChange={({ target }) => setUntil(target.value)} />
        </label>
        <label className={css.note}>
          Why
          <Input value={note} maxLength={500} onChange={({ target }) => setNote(target.value)} />
        </label>
        <Button htmlType="submit" disabled={missing !== ''} loading={grant.isPending}>
          Grant access
        </Button>
        <span role="status">
          {grant.isSuccess && missing !== '' ? 'Granted: in force within a second.' : missing}
        </span>
      </form>
      {grant.error && <Failure error={grant.error} />}
    </details>
  );
}
