import { useState } from 'react';
import { Alert, Button, Input } from 'antd';
import { skipToken, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { Link, useOutletContext } from 'react-router';
import { ServiceProblem, type PendingChanges } from '@kleidon/client';
import { client } from '../client.ts';
import { findingsQuery } from '../changes/findings-query.ts';
import { EffectView } from '../edit/effect-view.tsx';
import { Failure, Waiting } from '../shell/notices.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import { clsx } from 'clsx';
import layout from '../style/layout.module.css';
import forms from '../style/forms.module.css';
import { BrokenGuarantees } from '../visit/broken-guarantees.tsx';
import css from './review.module.css';

/** The way from pending changes to what is live: what they are, what they would change, saving and releasing. */
export function ReviewPage() {
  const { site, pending, reload } = useOutletContext<SiteFrame>();
  const [note, setNote] = useState('');
  const [override, setOverride] = useState('');
  const { changes, count } = pending;
  const check = useQuery(findingsQuery(site.id, pending));
  const broken = check.data?.guarantees.filter(({ is }) => is !== 'proved') ?? [];
  const queries = useQueryClient();
  const mutationKey = ['review', site.id];
  const action = useMutation({
    mutationKey,
    mutationFn: (work: () => Promise<string>) => work(),
    // Also where it failed: somebody else may have saved meanwhile.
    onSettled: reload,
  });
  if (!changes) return <Waiting what="the pending changes" />;

  // A second click before the first is seen would release twice.
  const act = (work: () => Promise<string>) => () => {
    if (queries.isMutating({ mutationKey }) === 0) action.mutate(work);
  };
  const release = async (version: number): Promise<string> => {
    const why = broken.length > 0 ? override : undefined;
    const { number } = await client.release(site.id, version, note, why);
    setNote('');
    setOverride('');
    return `Release ${number} is live.`;
  };
  const isRefused = changes.edits.some(({ refused }) => refused !== null);
  const whyNotSaved = isRefused ? 'Drop what can not be made any more first.' : null;
  const whyNotReleased =
    whyNotSaved ??
    (changes.errors.length > 0 ? 'A site file with errors can not be released.' : null) ??
    (broken.length > 0 && override.trim() === ''
      ? 'What breaks a guarantee is released only with a reason.'
      : null);

  return (
    <div className={layout.page}>
      <div className={layout.filters}>
        <h1>Review</h1>
        <span className={layout.quiet}>{stateOf(site, count)}</span>
        <span className={layout.grow} />
        {(count > 0 || !site.draft.isLive) && (
          <Input
            className={layout.note}
            aria-label="Note: why"
            placeholder="Note: why"
            maxLength={2000}
            value={note}
            onChange={({ target }) => setNote(target.value)}
          />
        )}
        {count > 0 ? (
          <>
            <Button
              onClick={act(() => pending.drop('all').then(() => 'All changes were dropped.'))}
            >
              Drop all
            </Button>
            <Button
              disabled={whyNotSaved !== null || action.isPending}
              title={whyNotSaved ?? undefined}
              onClick={act(async () => `Saved as version ${await pending.save()} of the draft.`)}
            >
              Save to the draft
            </Button>
            <Button
              type="primary"
              disabled={whyNotReleased !== null || action.isPending}
              title={whyNotReleased ?? undefined}
              onClick={act(async () => release(await pending.save()))}
            >
              Save and release
            </Button>
          </>
        ) : (
          !site.draft.isLive && (
            <Button
              type="primary"
              disabled={whyNotReleased !== null || action.isPending}
              title={whyNotReleased ?? undefined}
              onClick={act(() => release(site.draft.version))}
            >
              Release draft {site.draft.version}
            </Button>
          )
        )}
      </div>
      <p role="status" className={layout.said}>
        {action.data}
      </p>
      {action.error && <Failure error={action.error} />}
      {action.error instanceof ServiceProblem && action.error.code === 'changes-refused' && (
        <p className={layout.notice}>Nothing was saved, and all of them are still pending.</p>
      )}
      {broken.length > 0 && (count > 0 || !site.draft.isLive) && (
        <section className={css.broken} aria-label="Broken guarantees">
          <BrokenGuarantees guarantees={broken} shownIn={{ site: site.id, state: pending.state }} />
          <label className={forms.stacked}>
            Reason to release it nevertheless, which is recorded
            <Input
              maxLength={2000}
              value={override}
              onChange={({ target }) => setOverride(target.value)}
            />
          </label>
        </section>
      )}
      {count > 0 ? (
        <PendingView
          changes={changes}
          drop={(number, says) => act(() => pending.drop(number).then(() => `Dropped: ${says}.`))}
        />
      ) : (
        <div className={layout.notice}>
          <ErrorList changes={changes} title="The draft has errors" />
          <p>
            No pending changes. What you change in the forms is gathered here until you save it; the{' '}
            <Link to={`/sites/${site.id}/file`}>site file</Link> is saved by itself.
          </p>
        </div>
      )}
    </div>
  );
}

function stateOf({ draft, live }: SiteFrame['site'], count: number): string {
  const isLive =
    live === null
      ? 'Nothing is released yet'
      : `Release ${live.number} is live${draft.isLive ? '' : `, draft ${draft.version} differs`}`;
  return `${count === 0 ? 'No pending changes' : `${count} pending`}. ${isLive}.`;
}

/** The pending changes, each of which can be dropped, beside what all of them would change. */
function PendingView({
  changes,
  drop,
}: {
  changes: PendingChanges;
  drop: (number: number, says: string) => () => void;
}) {
  const { site, pending } = useOutletContext<SiteFrame>();
  const effect = useQuery({
    queryKey: ['effect of pending changes', site.id, pending.key],
    queryFn:
      pending.count === 0
        ? skipToken
        : ({ signal }) =>
            client.effect(
              site.id,
              'draft',
              changes.edits.map(({ edit }) => edit),
              signal,
            ),
  });
  return (
    <div className={layout.beside}>
      <ol className={css.waiting} aria-label="Changes">
        {changes.edits.map(({ number, says, refused }) => (
          <li key={number}>
            <span>
              {says}
              {refused !== null && (
                <strong className={layout.refused}> Can not be made: {refused}</strong>
              )}
            </span>
            <Button size="small" aria-label={`Drop: ${says}`} onClick={drop(number, says)}>
              Drop
            </Button>
          </li>
        ))}
      </ol>
      <aside
        className={clsx(layout.panel, layout.wide)}
        aria-label="Effect on the grid"
        tabIndex={0}
      >
        <ErrorList changes={changes} title="With these changes the site file has errors" />
        <EffectView isWithoutGuarantees query={effect} />
      </aside>
    </div>
  );
}

function ErrorList({ changes: { errors }, title }: { changes: PendingChanges; title: string }) {
  if (errors.length === 0) return null;
  return (
    <Alert
      type="error"
      showIcon
      title={title}
      description={
        <ul className={layout.plain}>
          {errors.map(({ line, message, remedy }) => (
            <li key={`${line} ${message}`}>
              {message} {remedy}
            </li>
          ))}
        </ul>
      }
    />
  );
}
