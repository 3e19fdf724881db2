import type { UseQueryResult } from '@tanstack/react-query';
import { Button } from 'antd';
import type { Effect } from '@kleidon/client';
import type { decisions, model } from '@kleidon/core';
import { ChainView } from '../visit/chain-view.tsx';
import { BrokenGuarantees } from '../visit/broken-guarantees.tsx';
import { OutcomeTag } from '../visit/outcome-tag.tsx';
import { Failure } from '../shell/notices.tsx';
import { clsx } from 'clsx';
import css from './effect.module.css';
import layout from '../style/layout.module.css';

interface Props {
  /** The guarantees that would break are told elsewhere. */
  readonly isWithoutGuarantees?: boolean;
  /** What the service says of the edits. */
  readonly query: UseQueryResult<Effect>;
  /** Fixes a finding as part of the same work; absent where nothing can be done about it here. */
  readonly applyFix?: (finding: model.Finding) => (() => void) | null;
}

const SHOWN = 100;

/** What edits change in the reach grid: which pages, for whom, from what to what. */
export function EffectView({
  isWithoutGuarantees = false,
  query: { data: effect, error, isFetching },
  applyFix,
}: Props) {
  if (error) return <Failure error={error} />;
  return (
    <section
      className={css.effect}
      aria-label="What changes in the grid"
      aria-live="polite"
      aria-busy={isFetching}
    >
      {effect !== undefined && effect.visits.length > 0 && (
        <>
          <h2>What a guest meets</h2>
          {effect.visits.map((visit) => (
            <ChainView key={visit.hops[0]!.address} visit={visit} />
          ))}
        </>
      )}
      {!isWithoutGuarantees && effect && effect.guarantees.length > 0 && (
        <>
          <h2>What would break</h2>
          <BrokenGuarantees guarantees={effect.guarantees} />
        </>
      )}
      {effect?.findings?.length ? (
        <NewFindings findings={effect.findings} applyFix={applyFix} />
      ) : null}
      <h2>In the grid</h2>
      {effect === undefined ? (
        <p className={layout.quiet}>Looking …</p>
      ) : (
        <Change effect={effect} />
      )}
    </section>
  );
}

function NewFindings({
  findings,
  applyFix,
}: {
  findings: readonly model.Finding[];
  applyFix: Props['applyFix'];
}) {
  return (
    <>
      <h2>What would look wrong</h2>
      <ul className={clsx(layout.plain, css.newFindings)}>
        {findings.slice(0, SHOWN).map((finding) => {
          const run = applyFix?.(finding) ?? null;
          return (
            <li key={`${finding.code} ${finding.about} ${finding.message}`}>
              <span aria-hidden>!</span> {finding.message} {finding.remedy}{' '}
              {run && (
                <Button size="small" onClick={run}>
                  Do that
                </Button>
              )}
            </li>
          );
        })}
      </ul>
    </>
  );
}

function Change({ effect: { change, errors, refused } }: { effect: Effect }) {
  if (refused.length > 0)
    return <p className={layout.refused}>{refused.map(({ message }) => message).join(' ')}</p>;
  if (change === null) {
    return errors.length === 0 ? (
      <p>The draft has errors, so that nothing can be compared. See the site file.</p>
    ) : (
      <ul className={clsx(layout.plain, layout.refused)}>
        {errors.map(({ line, column, message, remedy }) => (
          <li key={`${line} ${column} ${message}`}>
            {message} {remedy}
          </li>
        ))}
      </ul>
    );
  }
  const lists = [
    ['Pages that move', change.pagesMoved.map(({ from, to }) => `${from} → ${to}`)],
    ['New pages', change.pagesAdded],
    ['Pages gone', change.pagesRemoved],
    ['New visitors', change.visitorsAdded],
    ['Visitors gone', change.visitorsRemoved],
  ] as const;
  const groups = grouped(change.cells);
  return (
    <>
      <p>
        {change.changed === 0
          ? `None of ${change.compared} cells changes.`
          : `${change.changed} of ${change.compared} cells change${change.changed === 1 ? 's' : ''}.`}
      </p>
      {lists.map(([title, names]) =>
        names.length === 0 ? null : (
          <p key={title}>
            {title}: {names.slice(0, SHOWN).join(', ')}
          </p>
        ),
      )}
      <ul className={layout.plain} aria-label="Cells that change">
        {groups.slice(0, SHOWN).map(({ address, visitors, before, after }) => (
          <li key={`${address} ${visitors.join()}`}>
            <code>{address}</code> {visitors.join(', ')}
            <br />
            <CellTag cell={before} /> → <CellTag cell={after} />
          </li>
        ))}
      </ul>
      {(groups.length > SHOWN || change.changed > change.cells.length) && (
        <p className={layout.quiet}>These are the first; the grid has them all once saved.</p>
      )}
    </>
  );
}

function CellTag({ cell: { outcome, status, final, fullAccess } }: { cell: decisions.Cell }) {
  return <OutcomeTag outcome={outcome} status={status} fullAccess={fullAccess} title={final} />;
}

interface Group extends Pick<decisions.ChangedCell, 'address' | 'before' | 'after'> {
  readonly visitors: string[];
}

/** Visitors to whom the same happens at the same page stand together. */
function grouped(cells: readonly decisions.ChangedCell[]): Group[] {
  const groups = new Map<string, Group>();
  for (const { address, visitor, before, after } of cells) {
    const key = JSON.stringify([address, before, after]);
    const group = groups.get(key);
    if (group) group.visitors.push(visitor);
    else groups.set(key, { address, visitors: [visitor], before, after });
  }
  return [...groups.values()];
}
