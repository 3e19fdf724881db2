import { useState } from 'react';
import { Alert, Button, Input } from 'antd';
import { skipToken, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { Link, useOutletContext } from 'react-router';
import { ServiceProblem, type PendingChanges } from '@kleidon/client';
import { client } from '../client.ts';
import { findingsQuery } from '../changes/findings-query.ts';
import { MOMENT } from '../live/in-zone.ts';
import { scheduledQuery } from '../releases/scheduled-query.ts';
import { ScheduledRelease } from '../releases/scheduled-release.tsx';
import { EffectView } from '../edit/effect-view.tsx';
import { ErrorLines, Failure, Waiting } from '../shell/notices.tsx';
import { isMoment } from '../shell/is-moment.ts';
import type { SiteFrame } from '../shell/shell.tsx';
import { clsx } from 'clsx';
import layout from '../style/layout.module.css';
import forms from '../style/forms.module.css';
import { BrokenGuarantees } from '../visit/broken-guarantees.tsx';
import { WhatGoesLive } from './what-goes-live.tsx';
import css from './review.module.css';

/** The way from pending changes to what is live: what they are, what they would change, saving and releasing. */
export function ReviewPage() {
  const { site, pending, reload } = useOutletContext<SiteFrame>();
  const [note, setNote] = useState('');
  const [override, setOverride] = useState('');
  const [time, setTime] = useState('');
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
    const at = time.trim();
    const said =
      at === ''
        ? `Release ${(await client.release(site.id, version, note, why)).number} is live.`
        : await schedule(site.id, version, {
            note,
            at,
            ...(why === undefined ? {} : { override: why }),
          });
    setNote('');
    setOverride('');
    setTime('');
    await queries.invalidateQueries({ queryKey: scheduledQuery(site.id).queryKey });
    return said;
  };
  const isWrongTime = time.trim() !== '' && !isMoment(time);
  const isRefused = changes.edits.some(({ refused }) => refused !== null);
  const whyNotSaved = isRefused ? 'Resolve what can not be made any more first.' : null;
  const whyNotReleased =
    whyNotSaved ??
    (changes.errors.length > 0 ? 'A site file with errors can not be released.' : null) ??
    (isWrongTime ? 'Write the time as 2027-03-01, or as 2027-03-01 10:00.' : null) ??
    (broken.length > 0 && override.trim() === ''
      ? 'What breaks a guarantee is released only with a reason.'
      : null) ??
    (note.trim() === '' ? 'A release needs a note: say why it is made.' : null);
  const isToRelease = count > 0 || !site.draft.isLive;

  return (
    <div className={layout.page}>
      <div className={layout.filters}>
        <h1>Review</h1>
        <span className={layout.quiet}>{stateOf(site, count)}</span>
        <span className={layout.grow} />
        {isToRelease && (
          <>
            <Input
              className={layout.note}
              aria-label="Note: why"
              placeholder="Note: why (needed to release)"
              maxLength={2000}
              value={note}
              onChange={({ target }) => setNote(target.value)}
            />
            <Input
              className={css.time}
              aria-label="When: at once, or a date or time of the site"
              title="2027-03-01T09:00, in the time zone of the site"
              placeholder="at once"
              value={time}
              onChange={({ target }) => setTime(target.value)}
              {...(isWrongTime ? { status: 'error', 'aria-invalid': true } : {})}
            />
          </>
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
              {time.trim() === '' ? 'Save and release' : 'Save and schedule'}
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
              {time.trim() === '' ? 'Release' : 'Schedule'} draft {site.draft.version}
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
      <ScheduledRelease />
      {broken.length > 0 && isToRelease && (
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
          keep={(one) => act(() => pending.keep(one).then(() => `Kept: ${one.says}.`))}
        />
      ) : (
        <div className={isToRelease ? undefined : layout.notice}>
          <ErrorList errors={changes.errors} title="The draft has errors" />
          {!isToRelease && (
            <p>
              No pending changes. What you change in the forms is gathered here until you save it;
              the <Link to={`/sites/${site.id}/file`}>site file</Link> is saved by itself.
            </p>
          )}
        </div>
      )}
      {isToRelease && changes.errors.length === 0 && <WhatGoesLive />}
    </div>
  );
}

async function schedule(
  site: string,
  version: number,
  body: Parameters<typeof client.scheduleRelease>[2],
): Promise<string> {
  const { takesEffectAt } = await client.scheduleRelease(site, version, body);
  return `Version ${version} of the draft is released on ${MOMENT.format(new Date(takesEffectAt))}.`;
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
  keep,
}: {
  changes: PendingChanges;
  drop: (number: number, says: string) => () => void;
  keep: (edit: PendingChanges['edits'][number]) => () => void;
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
      <div className={css.waiting}>
        <ol aria-label="Changes">
          {changes.edits.map((one) => (
            <li key={one.number}>
              <span>
                {one.says}
                {one.refused !== null && (
                  <strong className={layout.refused}>
                    {' '}
                    {one.conflict ? 'Conflict' : 'Can not be made'}: {one.refused}
                  </strong>
                )}
              </span>
              <span className={css.choices}>
                {one.conflict && (
                  <Button size="small" aria-label={`Keep mine: ${one.says}`} onClick={keep(one)}>
                    Keep mine
                  </Button>
                )}
                <Button
                  size="small"
                  aria-label={`Drop: ${one.says}`}
                  onClick={drop(one.number, one.says)}
                >
                  Drop
                </Button>
              </span>
            </li>
          ))}
        </ol>
        <p className={layout.quiet}>All tabs of this browser share these changes.</p>
      </div>
      <aside
        className={clsx(layout.panel, layout.wide)}
        aria-label="Effect on the grid"
        tabIndex={0}
      >
        <ErrorList errors={changes.errors} title="With these changes the site file has errors" />
        <EffectView isWithoutGuarantees query={effect} />
      </aside>
    </div>
  );
}

function ErrorList({ errors, title }: { errors: PendingChanges['errors']; title: string }) {
  const { site } = useOutletContext<SiteFrame>();
  if (errors.length === 0) return null;
  return (
    <Alert
      type="error"
      showIcon
      title={title}
      description={<ErrorLines errors={errors} site={site.id} />}
    />
  );
}
