import { useState } from 'react';
import { Button, Checkbox, Select } from 'antd';
import { useQuery } from '@tanstack/react-query';
import { Link, useOutletContext } from 'react-router';
import { OUTCOME_WORDS } from '@kleidon/client';
import type { queries } from '@kleidon/core';
import type { Choices } from '../entries/choices.ts';
import { EntryPanel } from '../entries/entry-panel.tsx';
import { PAGES } from '../entries/sections.ts';
import { client } from '../client.ts';
import { Failure } from '../shell/notices.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import { PageAddresses } from './page-addresses.tsx';
import { ruleAddress } from '../visit/visit-panel.tsx';
import forms from '../style/forms.module.css';
import layout from '../style/layout.module.css';
import css from './pages.module.css';

interface Props {
  /** The page as the list has it; null for a new one. */
  readonly page: queries.ListedPage | null;
  /** The page as the site file has it. */
  readonly value: unknown;
  readonly choices: Choices;
  onClose(said: string): void;
}

/** A page: its settings, another address, and who reaches it. */
export function PagePanel({ page, value, choices, onClose }: Props) {
  const [beneath, setBeneath] = useState(true);
  const [redirect, setRedirect] = useState(true);
  const hasBeneath =
    page !== null && choices.pages.some((address) => address.startsWith(`${page.address}/`));
  return (
    <EntryPanel
      section={PAGES}
      name={page?.address ?? null}
      value={value}
      choices={choices}
      onClose={onClose}
      above={page && <Standing page={page} />}
      renaming={{
        edits: (from, to) => [
          { do: 'move-page', from, to, beneath: beneath && hasBeneath, redirect },
        ],
        choices: (
          <fieldset className={forms.rows}>
            <legend>It moves; rules that name it follow</legend>
            <Checkbox checked={redirect} onChange={({ target }) => setRedirect(target.checked)}>
              A permanent redirect leads from the old address
            </Checkbox>
            {hasBeneath && (
              <Checkbox checked={beneath} onChange={({ target }) => setBeneath(target.checked)}>
                The pages beneath it move too
              </Checkbox>
            )}
          </fieldset>
        ),
      }}
    >
      {page && <PageAddresses page={page} onClose={onClose} />}
      {page && <CopySettings page={page} choices={choices} onClose={onClose} />}
    </EntryPanel>
  );
}

type Reachers = Pick<queries.WhoReaches, 'words' | 'byFullAccess'>;

/** Who may change the page, if others may than those who may view it. */
function ChangedBy({ view, change }: { view: Reachers; change: Reachers }) {
  if (change.words === view.words && change.byFullAccess === view.byFullAccess) return null;
  const who = [
    ...(change.words === 'nobody' && change.byFullAccess !== null ? [] : [change.words]),
    ...(change.byFullAccess === null ? [] : [`by full access: ${change.byFullAccess}`]),
  ];
  return <p>May change it: {who.join('; ')}</p>;
}

/** What decides about the page, and for whom. */
function Standing({ page }: { page: queries.ListedPage }) {
  const { site, pending } = useOutletContext<SiteFrame>();
  const { address, words, gates, gatesFrom, linkedFrom, byFullAccess, closed, line } = page;
  const said = useQuery({
    queryKey: ['who reaches', site.id, pending.key, address],
    queryFn: async ({ signal }) => {
      const [view, change] = await Promise.all(
        (['view', 'change'] as const).map((right) =>
          client.whoReaches(site.id, { address, right, state: pending.state }, signal),
        ),
      );
      return { view: view!, change: change! };
    },
  });
  const elsewhere = said.data?.view.endings.filter(({ outcome }) => outcome !== 'reach') ?? [];
  return (
    <section aria-label="Who reaches it">
      <h2>Who reaches it</h2>
      <p>
        {words}
        {closed !== null && ` (${closed})`}
        {byFullAccess !== null && `; besides, by full access: ${byFullAccess}`}
      </p>
      <Endings endings={elsewhere} />
      {said.data && <ChangedBy view={{ words, byFullAccess }} change={said.data.change} />}
      <Families families={said.data?.view.families.slice(1) ?? []} />
      {gates.length === 0 ? (
        <p className={layout.quiet}>No gate covers it.</p>
      ) : (
        <ul className={layout.plain}>
          {gates.map((gate, i) => (
            <li key={gate}>
              Gate{' '}
              <Link
                to={`/sites/${site.id}/access/gates?${new URLSearchParams({ name: gate }).toString()}`}
              >
                {gate}
              </Link>{' '}
              <span className={layout.quiet}>{gatesFrom[i]}</span>
            </li>
          ))}
        </ul>
      )}
      {linkedFrom.length > 0 && <p>Linked from {linkedFrom.join(', ')}.</p>}
      <p>
        <Link
          to={`/sites/${site.id}/reach/address?${new URLSearchParams({ address, ...(pending.state === 'draft' ? {} : { state: pending.state }) }).toString()}`}
        >
          Try it
        </Link>{' '}
        · <Link to={ruleAddress(site.id, pending.state, line)}>In the site file, line {line}</Link>
      </p>
    </section>
  );
}

/** How visits end for those who do not reach it. */
function Endings({ endings }: { endings: readonly queries.Ending[] }) {
  if (endings.length === 0) return null;
  return (
    <ul className={layout.plain}>
      {endings.map(({ outcome, final, words }) => (
        <li key={`${outcome} ${final} ${words}`}>
          <span aria-hidden>{OUTCOME_WORDS[outcome].sign}</span> {OUTCOME_WORDS[outcome].word}:{' '}
          {words} <span className={layout.quiet}>at {final}</span>
        </li>
      ))}
    </ul>
  );
}

/** Addresses of a page that is a pattern, which other rules treat otherwise. */
function Families({ families }: { families: readonly queries.ReachedFamily[] }) {
  if (families.length === 0) return null;
  return (
    <>
      <p>Other rules treat some of its addresses otherwise:</p>
      <ul className={layout.plain}>
        {families.map(({ example, within, words }) => (
          <li key={example}>
            {example} <span className={layout.quiet}>of {within.join(', and of ')}</span>: {words}
          </li>
        ))}
      </ul>
    </>
  );
}

function CopySettings({
  page,
  choices,
  onClose,
}: {
  page: queries.ListedPage;
  choices: Choices;
  onClose(said: string): void;
}) {
  const { pending } = useOutletContext<SiteFrame>();
  const [from, setFrom] = useState<string | null>(null);
  const [failure, setFailure] = useState<Error | null>(null);
  const copy = async (): Promise<void> => {
    try {
      await pending.add({ do: 'copy-settings', from: from!, to: page.address });
      onClose('The copied settings are pending.');
    } catch (error) {
      setFailure(error as Error);
    }
  };
  return (
    <section aria-label="Settings of another page" className={css.copy}>
      <h2>Take the settings of another page</h2>
      <Select
        aria-label="The other page"
        showSearch
        placeholder="Another page"
        value={from}
        onChange={setFrom}
        options={choices.pages
          .filter((address) => address !== page.address)
          .map((address) => ({ value: address, label: address }))}
      />
      <Button disabled={from === null} onClick={() => void copy()}>
        Copy
      </Button>
      <p className={layout.quiet}>
        Dates, draft, listing, HTTPS and refresh, and the gates that name it.
      </p>
      {failure && <Failure error={failure} />}
    </section>
  );
}
