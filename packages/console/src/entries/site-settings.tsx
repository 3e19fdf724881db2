import { useState } from 'react';
import { Button } from 'antd';
import { skipToken, useQuery } from '@tanstack/react-query';
import { useDebounce } from 'use-debounce';
import { Link, useOutletContext } from 'react-router';
import type { model } from '@kleidon/core';
import { client } from '../client.ts';
import { documentQuery } from '../changes/document-query.ts';
import { EffectView } from '../edit/effect-view.tsx';
import { Failure, Waiting } from '../shell/notices.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import { choicesOf, type Choices } from './choices.ts';
import { EntryFields } from './entry-fields.tsx';
import { isRecord, type Entry } from './entry-value.ts';
import { SITE_FIELDS } from './sections.ts';
import { useAdding } from './use-adding.tsx';
import { clsx } from 'clsx';
import layout from '../style/layout.module.css';
import forms from '../style/forms.module.css';

/** The settings of the site: what holds where no gate says otherwise, where guests sign in, full access. */
export function SiteSettings() {
  const { site, pending } = useOutletContext<SiteFrame>();
  const [said, setSaid] = useState('');
  const document = useQuery(documentQuery(site.id, pending));
  if (document.error)
    return <Failure error={document.error} retry={() => void document.refetch()} site={site.id} />;
  if (!document.data) return <Waiting what="the settings" />;
  const before = document.data['site'];
  return (
    <div className={layout.page}>
      <div className={layout.filters}>
        <h1>Settings</h1>
        <span className={layout.quiet} role="status">
          {said}
        </span>
      </div>
      <SettingsForm
        key={JSON.stringify(before)}
        before={isRecord(before) ? before : {}}
        choices={choicesOf(site.id, pending.state, document.data)}
        onAdded={() => setSaid('The change is pending.')}
      />
    </div>
  );
}

const PAUSE = 400;

interface Props {
  readonly before: Entry;
  readonly choices: Choices;
  onAdded(): void;
}

function SettingsForm({ before, choices, onAdded }: Props) {
  const { site, pending } = useOutletContext<SiteFrame>();
  const [entry, setEntry] = useState(before);
  const adding = useAdding();
  const edits = SITE_FIELDS.flatMap(({ name }): model.Edit[] => {
    const value = entry[name];
    if (JSON.stringify(value) === JSON.stringify(before[name])) return [];
    const was = before[name] ?? null;
    return value === undefined || value === ''
      ? [{ do: 'remove', section: 'site', name, was }]
      : [{ do: 'put', section: 'site', name, was, value }];
  });
  const [rested] = useDebounce(JSON.stringify(edits), PAUSE);
  const effect = useQuery({
    queryKey: ['effect', site.id, pending.key, rested],
    queryFn:
      rested === '[]'
        ? skipToken
        : ({ signal }) =>
            client.effect(site.id, pending.state, JSON.parse(rested) as model.Edit[], signal),
  });
  return (
    <div className={clsx(layout.beside, layout.settings)}>
      <form
        className={clsx(forms.entryForm, forms.settings)}
        aria-label="Settings of the site"
        onSubmit={(event) => {
          event.preventDefault();
          void adding.addIfValid(edits).then((isAdded) => {
            if (isAdded) onAdded();
          });
        }}
      >
        <EntryFields fields={SITE_FIELDS} entry={entry} choices={choices} onChange={setEntry} />
        {adding.told}
        <div className={forms.buttons}>
          <Button type="primary" htmlType="submit" disabled={edits.length === 0}>
            Add to pending changes
          </Button>
        </div>
      </form>
      <aside
        className={clsx(layout.panel, layout.wide)}
        aria-label="Effect on the grid"
        tabIndex={0}
      >
        {edits.length === 0 ? (
          <>
            <p className={layout.quiet}>
              What a change does to the grid is shown here before it is added.
            </p>
            <p>
              <Link to={`/sites/${site.id}/reach/list`}>Try the forms of addresses on a list</Link>,
              with all pending changes.
            </p>
          </>
        ) : (
          <EffectView query={effect} />
        )}
      </aside>
    </div>
  );
}
