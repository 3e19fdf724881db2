import { useState } from 'react';
import { Button } from 'antd';
import { useQuery } from '@tanstack/react-query';
import { useOutletContext } from 'react-router';
import type { queries } from '@kleidon/core';
import { client } from '../client.ts';
import { OutcomeTag } from '../visit/outcome-tag.tsx';
import { Failure, Waiting } from '../shell/notices.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import { clsx } from 'clsx';
import layout from '../style/layout.module.css';
import css from './pages.module.css';

interface Props {
  readonly page: queries.ListedPage;
  onClose(said: string): void;
}

const BY: Readonly<Record<queries.PageAddress['by'], string>> = {
  primary: 'primary address',
  alias: 'another address',
  home: 'another address of the home page',
  redirect: 'a redirect',
  rewrite: 'served from here',
  spelling: 'another spelling',
};

/** All addresses of a page and where each leads; any of its own can be made the primary one. */
export function PageAddresses({ page, onClose }: Props) {
  const { site, pending } = useOutletContext<SiteFrame>();
  const [failure, setFailure] = useState<Error | null>(null);
  const { address } = page;
  const loaded = useQuery({
    queryKey: ['addresses of', site.id, pending.key, address],
    queryFn: ({ signal }) => client.addressesOf(site.id, { address, state: pending.state }, signal),
  });
  const makePrimary = async (alias: string): Promise<void> => {
    setFailure(null);
    try {
      // The alias becomes the page's address, and the address an alias; rules that name the page follow.
      await pending.add({
        do: 'move-page',
        from: address,
        to: alias,
        beneath: false,
        redirect: true,
      });
      onClose(`That ${alias} is the primary address is pending.`);
    } catch (error) {
      setFailure(error as Error);
    }
  };
  return (
    <section aria-label="All its addresses">
      <h2>All its addresses, for a guest</h2>
      {loaded.error && <Failure error={loaded.error} retry={() => void loaded.refetch()} />}
      {failure && <Failure error={failure} />}
      {!loaded.data && !loaded.error && <Waiting what="the addresses" />}
      <ul className={clsx(layout.plain, css.pageAddresses)}>
        {loaded.data?.map((one) => (
          <li key={`${one.by} ${one.address}`}>
            <code>{one.address}</code> <span className={layout.quiet}>{BY[one.by]}</span>{' '}
            {one.by === 'alias' && (
              <Button
                size="small"
                aria-label={`Make primary: ${one.address}`}
                onClick={() => void makePrimary(one.address)}
              >
                Make primary
              </Button>
            )}
            <br />
            <OutcomeTag outcome={one.outcome} />{' '}
            <span className={layout.quiet}>
              {one.hops === 0 ? 'at once' : `at ${one.final}, after ${hopsInWords(one.hops)}`}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

const hopsInWords = (hops: number): string => `${hops} redirect${hops === 1 ? '' : 's'}`;
