import { useRef, useState } from 'react';
import { Button, Input } from 'antd';
import { skipToken, useQuery } from '@tanstack/react-query';
import { useDebounce } from 'use-debounce';
import { useOutletContext } from 'react-router';
import type { proposals, queries } from '@kleidon/core';
import { client } from '../client.ts';
import { inShort } from '../entries/entry-value.ts';
import { Failure } from '../shell/notices.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import { PanelHead } from '../shell/panel-head.tsx';
import { clsx } from 'clsx';
import layout from '../style/layout.module.css';
import css from './redirects.module.css';

const PAUSE = 300;
const SHOWN = 100;
const MOST_AT_ONCE = 5000;

/** Redirects from a spreadsheet: what each line would do is shown before anything is kept. */
export function ImportPanel({ onClose }: { onClose(said: string): void }) {
  const { site, pending } = useOutletContext<SiteFrame>();
  const [text, setText] = useState('');
  const [failure, setFailure] = useState<Error | null>(null);
  const file = useRef<HTMLInputElement>(null);
  const [rested] = useDebounce(text, PAUSE);
  const proposal = useQuery({
    queryKey: ['proposed redirects', site.id, pending.key, rested],
    queryFn:
      rested.trim() === ''
        ? skipToken
        : () => client.proposeRedirects(site.id, pending.state, rested),
  });
  const value = rested.trim() === '' ? undefined : proposal.data;
  const count = value ? value.additions.length + value.changes.length : 0;

  const keep = async (made: proposals.RedirectsProposal): Promise<void> => {
    setFailure(null);
    try {
      await pending.add({
        do: 'put-items',
        section: 'redirects',
        items: [
          ...made.changes.map(({ was, value: next }) => ({ was, value: next })),
          ...made.additions.map(({ value: next }) => ({ was: null, value: next })),
        ],
      });
      onClose(`${count} redirects are pending.`);
    } catch (error) {
      setFailure(error as Error);
    }
  };

  return (
    <aside className={clsx(layout.panel, layout.wide)} aria-label="Import redirects">
      <PanelHead title="Import redirects" onClose={() => onClose('')} />
      <p className={layout.quiet}>
        A spreadsheet as CSV. Its first line names the columns, in any order: from, to, and as you
        like kind, query, when, since, until, note, rank.
      </p>
      <p>
        <Button onClick={() => file.current?.click()}>Choose a file</Button>
        <input
          ref={file}
          type="file"
          accept=".csv,text/csv"
          aria-label="A CSV file"
          className={css.hiddenInput}
          onChange={({ target }) => {
            void target.files?.[0]?.text().then(setText);
          }}
        />
      </p>
      <Input.TextArea
        aria-label="Or paste it here"
        className={clsx(layout.code)}
        placeholder={'from,to,kind\n/old,/new,permanent'}
        rows={8}
        spellCheck={false}
        value={text}
        onChange={({ target }) => setText(target.value)}
      />
      {proposal.error && <Failure error={proposal.error} />}
      {failure && <Failure error={failure} />}
      {value && (
        <section aria-label="What it would do" aria-live="polite" aria-busy={proposal.isFetching}>
          <h2>What it would do</h2>
          <p>
            {value.additions.length} added, {value.changes.length} changed, {value.known} there
            already, {value.refused.length} refused.
          </p>
          {value.unread.length > 0 && (
            <p className={layout.refused}>Columns not read: {value.unread.join(', ')}.</p>
          )}
          {value.patterns.length > 0 && (
            <p>Taken as patterns, all others literally: {value.patterns.join(', ')}.</p>
          )}
          {value.findings.length > 0 && (
            <ul className={clsx(layout.plain, layout.refused)} aria-label="What it would bring">
              {value.findings.map(({ code, about, message }) => (
                <li key={`${code} ${about}`}>! {message}</li>
              ))}
            </ul>
          )}
          <Lines value={value} />
          {count > MOST_AT_ONCE ? (
            <p>
              These are more than {MOST_AT_ONCE}. Keep them as a list beside the site file, under
              Lists.
            </p>
          ) : (
            <Button type="primary" disabled={count === 0} onClick={() => void keep(value)}>
              Add {count} to pending changes
            </Button>
          )}
        </section>
      )}
    </aside>
  );
}

function Lines({ value }: { value: queries.ExplainedProposal<proposals.RedirectsProposal> }) {
  const lines = [
    ...value.additions.map(({ line, value: one }) => [line, '+ added', inShort(one), ''] as const),
    ...value.changes.map(
      ({ line, was, value: one }) => [line, '~ changed', inShort(one), inShort(was)] as const,
    ),
    ...value.refused.map(({ line, what, why }) => [line, '! refused', what, why] as const),
  ].sort(([a], [b]) => (a ?? 0) - (b ?? 0));
  return (
    <>
      <ul className={clsx(layout.plain, css.importLines)}>
        {lines.slice(0, SHOWN).map(([line, word, what, detail], i) => (
          <li key={i} className={clsx(word.startsWith('!') && layout.refused)}>
            <span className={layout.quiet}>line {line}</span> <strong>{word}</strong>{' '}
            <code>{what}</code>
            {detail !== '' && (
              <>
                <br />
                <span className={layout.quiet}>
                  {word.startsWith('~') ? `before: ${detail}` : detail}
                </span>
              </>
            )}
          </li>
        ))}
      </ul>
      {lines.length > SHOWN && (
        <p className={layout.quiet}>And {lines.length - SHOWN} more lines.</p>
      )}
    </>
  );
}
