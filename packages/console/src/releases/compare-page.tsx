import { Button, Input, Select } from 'antd';
import { useState } from 'react';
import { useMutation, useQuery } from '@tanstack/react-query';
import { Link, useOutletContext } from 'react-router';
import { filteredDifferences } from '@kleidon/client';
import { client } from '../client.ts';
import { namesQuery } from '../changes/names-query.ts';
import { Failure, Waiting } from '../shell/notices.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import { StateChoice } from '../shell/state-choice.tsx';
import layout from '../style/layout.module.css';
import { TypedInput } from '../shell/typed-input.tsx';
import { useAddressState } from '../use-address-state.ts';
import { comparisonQuery } from './comparison-query.ts';
import { ComparisonView } from './comparison-view.tsx';

/** Who gains access and who loses it between two states, for every visitor there could be. */
export function ComparePage() {
  const { site, releases, pending } = useOutletContext<SiteFrame>();
  const { query, change } = useAddressState();
  const before = query.get('before') ?? (site.live ? 'live' : 'draft');
  const after = query.get('after') ?? pending.state;
  const chosen = {
    page: query.get('page') ?? '',
    rule: query.get('rule') ?? '',
    visitor: query.get('visitor') ?? '',
  };
  const compared = useQuery(comparisonQuery(site.id, before, after, keyOf(pending.key, site)));
  const names = useQuery(namesQuery(site.id, pending)).data;
  const { data, error } = compared;
  const shown = data && filteredDifferences(data, chosen);
  return (
    <div className={layout.page}>
      <div className={layout.filters}>
        <h1>Compare</h1>
        <StateChoice
          label="Before"
          value={before}
          onChange={(state) => change({ before: state ?? pending.state })}
        />
        <span aria-hidden>→</span>
        <StateChoice
          label="After"
          value={after}
          onChange={(state) => change({ after: state ?? pending.state })}
        />
        <TypedInput
          className={layout.code}
          aria-label="Only at this address"
          placeholder="Any address"
          allowClear
          value={chosen.page}
          onType={(page) => change({ page }, { replace: true })}
        />
        <Select
          aria-label="Only by this rule"
          placeholder="Any rule"
          allowClear
          showSearch
          popupMatchSelectWidth={false}
          value={chosen.rule || null}
          options={(data?.changes ?? [])
            .filter(({ differences }) => differences > 0)
            .map(({ rule }) => ({ value: rule, label: rule }))}
          onChange={(rule: string | undefined) => change({ rule: rule ?? null })}
        />
        <Select
          aria-label="Only for this visitor"
          placeholder="Any visitor"
          allowClear
          showSearch
          popupMatchSelectWidth={false}
          value={chosen.visitor || null}
          options={(names?.visitors ?? []).map(({ name, title }) => ({
            value: name,
            label: title === name ? name : `${name}: ${title}`,
          }))}
          onChange={(visitor: string | undefined) => change({ visitor: visitor ?? null })}
        />
        <span className={layout.grow} />
        {data && (
          <span className={layout.quiet} role="status">
            {countOf(data.changes.length, 'change')}, {countOf(data.total, 'difference')}
          </span>
        )}
      </div>
      {releases.some(({ number }) => String(number) === after && number !== site.live?.number) && (
        <Restore key={after} number={Number(after)} />
      )}
      {error ? (
        <Failure error={error} retry={() => void compared.refetch()} site={site.id} />
      ) : data && shown ? (
        <ComparisonView comparison={data} shown={shown} before={before} after={after} />
      ) : (
        <Waiting what="the comparison" />
      )}
    </div>
  );
}

/** What is compared differs when the pending changes or the releases do. */
const keyOf = (pending: string, { live }: SiteFrame['site']): string =>
  `${pending} ${live?.number ?? ''}`;

const countOf = (number: number, one: string): string =>
  `${number} ${one}${number === 1 ? '' : 's'}`;

/** Makes an earlier release live again, with what that changes in view. */
function Restore({ number }: { number: number }) {
  const { site, reload } = useOutletContext<SiteFrame>();
  const [note, setNote] = useState(`Restores release ${number}`);
  const [override, setOverride] = useState('');
  const restoring = useMutation({
    mutationFn: () => client.restoreRelease(site.id, number, note, override.trim() || undefined),
    onSuccess: reload,
  });
  return (
    <section className={layout.filters} aria-label={`Restore release ${number}`}>
      {restoring.data ? (
        <p role="status">
          Release {restoring.data.number} is live: release {number} again. See the{' '}
          <Link to={`/sites/${site.id}/releases`}>releases</Link>.
        </p>
      ) : (
        <>
          <Input
            className={layout.note}
            aria-label="Note: why"
            maxLength={2000}
            value={note}
            onChange={({ target }) => setNote(target.value)}
          />
          {restoring.error && (
            <Input
              className={layout.note}
              aria-label="Reason to release it although it breaks guarantees"
              placeholder="Reason, where it breaks guarantees"
              maxLength={2000}
              value={override}
              onChange={({ target }) => setOverride(target.value)}
            />
          )}
          <Button
            type="primary"
            disabled={note.trim() === '' || restoring.isPending}
            onClick={() => restoring.mutate()}
          >
            Make release {number} live again
          </Button>
          {restoring.error && <Failure error={restoring.error} site={site.id} />}
        </>
      )}
    </section>
  );
}
