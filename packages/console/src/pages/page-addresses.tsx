import { useState } from 'react';
import { Button } from 'antd';
import { useQuery } from '@tanstack/react-query';
import { useOutletContext } from 'react-router';
import type { model, queries } from '@kleidon/core';
import { client } from '../client.ts';
import { OutcomeTag } from '../visit/outcome-tag.tsx';
import { asList, entryOf, fromList, type Entry } from '../entries/entry-value.ts';
import { Failure, Waiting } from '../shell/notices.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import { clsx } from 'clsx';
import layout from '../style/layout.module.css';
import css from './pages.module.css';

interface Props {
  readonly page: queries.ListedPage;
  /** The page as the site file has it. */
  readonly value: unknown;
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
export function PageAddresses({ page, value, onClose }: Props) {
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
      await pending.add(...primaryEdits(address, alias, entryOf(value, 'pages')));
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

/** The alias becomes the page's address, and the address an alias; rules that name the page follow. */
function primaryEdits(address: string, alias: string, page: Entry): readonly model.Edit[] {
  const others = asList(page['aliases']).filter((one) => one !== alias);
  const { aliases: _, ...rest } = page;
  const withAliases = (aliases: readonly string[]): Entry =>
    aliases.length === 0 ? rest : { ...rest, aliases: fromList(aliases) };
  return [
    { do: 'put', section: 'pages', name: address, value: withAliases(others) },
    { do: 'move-page', from: address, to: alias, beneath: false, redirect: false },
    { do: 'put', section: 'pages', name: alias, value: withAliases([...others, address]) },
  ];
}
