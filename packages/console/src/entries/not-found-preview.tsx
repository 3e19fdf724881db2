import { useState } from 'react';
import { Input, Select } from 'antd';
import { skipToken, useQuery } from '@tanstack/react-query';
import { useDebounce } from 'use-debounce';
import { Link, useOutletContext } from 'react-router';
import { client } from '../client.ts';
import { namesQuery } from '../changes/names-query.ts';
import { ChainView } from '../visit/chain-view.tsx';
import { Failure, Waiting } from '../shell/notices.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import forms from '../style/forms.module.css';
import layout from '../style/layout.module.css';

const PAUSE = 300;

/** What a visitor is shown where nothing is, with the pages close by that they reach. */
export function NotFoundPreview({ under }: { under: string }) {
  const { site, pending } = useOutletContext<SiteFrame>();
  const [address, setAddress] = useState(`${under.replace(/\/$/, '')}/no-such-page`);
  const [as, setAs] = useState<string | null>(null);
  const [settled] = useDebounce(address, PAUSE);
  const names = useQuery(namesQuery(site.id, pending));
  const visitors = names.data?.visitors ?? [];
  // Gates come first: the preview is of someone who gets as far as the not-found rule, if anyone does.
  const getThere = useQuery({
    queryKey: ['who gets there', site.id, pending.key, settled],
    queryFn: async ({ signal }) => {
      const request = { addresses: [settled], state: pending.state };
      const visits = await client.visitList(site.id, request, signal);
      const first = visits.find(({ outcome }) => outcome === 'missing') ?? visits[0];
      return first?.visitor ?? null;
    },
  });
  const who = as ?? getThere.data ?? undefined;
  const seen = useQuery({
    queryKey: ['not found', site.id, pending.key, settled, who],
    queryFn:
      who === undefined
        ? skipToken
        : async ({ signal }) => {
            const request = { address: settled, as: who, state: pending.state };
            const visit = await client.visit(site.id, request, signal);
            const close =
              visit.outcome === 'missing' ? await client.suggestPages(site.id, request) : [];
            return { visit, close };
          },
  });
  return (
    <section aria-label="What a visitor sees">
      <h2>What a visitor sees</h2>
      <div className={forms.pair}>
        <label className={forms.stacked}>
          Asks for
          <Input
            className={layout.code}
            value={address}
            onChange={({ target }) => setAddress(target.value)}
          />
        </label>
        <label className={forms.stacked}>
          As
          <Select
            aria-label="As"
            value={who ?? ''}
            onChange={setAs}
            options={visitors.map(({ name, title, summary }) => ({
              value: name,
              label: `${title} (${summary})`,
            }))}
          />
        </label>
      </div>
      {(getThere.error ?? seen.error) ? (
        <Failure
          error={(getThere.error ?? seen.error)!}
          retry={() => void getThere.refetch()}
          site={site.id}
        />
      ) : seen.data ? (
        <>
          <ChainView visit={seen.data.visit} />
          {seen.data.close.length > 0 && (
            <p>
              Close by, and open to them:{' '}
              {seen.data.close.map(({ address: one, title }, i) => (
                <span key={one}>
                  {i > 0 && ', '}
                  <Link to={`/sites/${site.id}/pages?${new URLSearchParams({ name: one })}`}>
                    {title}
                  </Link>{' '}
                  <code>{one}</code>
                </span>
              ))}
            </p>
          )}
          {seen.data.visit.outcome === 'missing' && seen.data.close.length === 0 && (
            <p className={layout.quiet}>No page that they reach is close by.</p>
          )}
        </>
      ) : (
        <Waiting what="the visit" />
      )}
    </section>
  );
}
