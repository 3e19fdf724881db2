import { useState } from 'react';
import { Alert, Button } from 'antd';
import { Link, useOutletContext } from 'react-router';
import { ServiceProblem } from '@kleidon/client';
import { client } from '../client.ts';
import { EffectView } from '../edit/effect-view.tsx';
import { Failure, Waiting } from '../shell/notices.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import { useLoad } from '../use-load.ts';

/** Everything that is pending: what it is, what it would change, and the way to drop or save it. */
export function ChangesPage() {
  const { site, pending, reload } = useOutletContext<SiteFrame>();
  const [said, setSaid] = useState('');
  const [failure, setFailure] = useState<Error | null>(null);
  const { changes } = pending;
  const effect = useLoad(pending.count === 0 ? null : pending.key, (signal) =>
    client.effect(
      site.id,
      'draft',
      changes!.edits.map(({ edit }) => edit),
      signal,
    ),
  );
  if (!changes) return <Waiting what="the changes" />;

  const run = async (work: () => Promise<string>): Promise<void> => {
    setFailure(null);
    try {
      setSaid(await work());
    } catch (error) {
      setFailure(error as Error);
    }
  };
  const save = (): Promise<void> =>
    run(async () => {
      const version = await pending.save();
      reload();
      return `Saved as version ${version} of the draft.`;
    });

  const isRefused = changes.edits.some(({ refused }) => refused !== null);
  return (
    <div className="page changes-page">
      <div className="filters">
        <h1>Pending changes</h1>
        <span className="quiet">They are saved as one, and can be dropped one by one.</span>
        <span className="grow" />
        <Button
          disabled={pending.count === 0}
          onClick={() =>
            void run(() => pending.drop('all').then(() => 'All changes were dropped.'))
          }
        >
          Drop all
        </Button>
        <Button
          type="primary"
          disabled={pending.count === 0 || isRefused}
          title={isRefused ? 'Drop what can not be made any more first' : undefined}
          onClick={() => void save()}
        >
          Save {pending.count === 1 ? 'the change' : `all ${pending.count}`}
        </Button>
      </div>
      <p role="status" className="said">
        {said}
      </p>
      {failure && <Failure error={failure} />}
      {failure instanceof ServiceProblem && failure.code === 'changes-refused' && (
        <p className="notice">Nothing was saved, and all of them are still pending.</p>
      )}
      {pending.count === 0 ? (
        <p className="notice">
          No pending changes. What you change under Pages, Gates, Visitors, Names and Site is
          gathered here until you save it; the <Link to={`/sites/${site.id}/file`}>site file</Link>{' '}
          is saved by itself.
        </p>
      ) : (
        <div className="beside">
          <ol className="waiting" aria-label="Changes">
            {changes.edits.map(({ number, says, refused }) => (
              <li key={number}>
                <span>
                  {says}
                  {refused !== null && (
                    <strong className="refused"> Can not be made: {refused}</strong>
                  )}
                </span>
                <Button
                  size="small"
                  aria-label={`Drop: ${says}`}
                  onClick={() =>
                    void run(() => pending.drop(number).then(() => `Dropped: ${says}.`))
                  }
                >
                  Drop
                </Button>
              </li>
            ))}
          </ol>
          <aside className="panel wide" aria-label="Effect on the grid">
            {changes.errors.length > 0 && (
              <Alert
                type="error"
                showIcon
                title="With these changes the site file has errors"
                description={
                  <ul className="plain">
                    {changes.errors.map(({ line, message, remedy }) => (
                      <li key={`${line} ${message}`}>
                        {message} {remedy}
                      </li>
                    ))}
                  </ul>
                }
              />
            )}
            <EffectView effect={effect.value} error={effect.error} isLoading={effect.isLoading} />
          </aside>
        </div>
      )}
    </div>
  );
}
