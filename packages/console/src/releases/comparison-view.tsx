import { Button } from 'antd';
import { useState } from 'react';
import { Link, useOutletContext } from 'react-router';
import {
  COMPARED_KINDS,
  comparedPeople,
  GAINS,
  wasAndIs,
  WHAT_DIFFERS,
  withoutEffect,
  type ComparedPeople,
  type Comparison,
} from '@kleidon/client';
import { Moment } from '../live/moment.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import layout from '../style/layout.module.css';
import { OutcomeTag } from '../visit/outcome-tag.tsx';
import { witnessAddress } from '../visit/witness-link.tsx';
import css from './releases.module.css';

type Change = Comparison['changes'][number];
type Difference = Comparison['differences'][number];

/** Places that are listed before the rest is asked for. */
const SHOWN = 12;

/** What differs between two states, by the rule that is the cause; then the changes that change nothing for anyone. */
export function ComparisonView({
  comparison,
  shown = comparison.differences,
  before,
  after,
}: {
  comparison: Comparison;
  /** What is left of the differences by what was chosen. */
  shown?: readonly Difference[];
  before: string;
  after: string;
}) {
  const { changes, notFrom, notCompared } = comparison;
  const groups = changes
    .map((change, i) => ({ change, people: comparedPeople(shown, i) }))
    .filter(({ people }) => people.length > 0);
  const without = changes.filter((change) => change.differences === 0);
  return (
    <div className={css.comparison}>
      {groups.map(({ change, people }) => (
        <section key={`${change.rule} ${change.is} ${change.lineAfter}`} aria-label={change.rule}>
          <ChangeTitle change={change} before={before} after={after} />
          <ul className={layout.plain}>
            {people.map((one) => (
              <People
                key={`${one.is} ${one.words} ${one.from}`}
                people={one}
                before={before}
                after={after}
              />
            ))}
          </ul>
        </section>
      ))}
      {groups.length === 0 && changes.length > without.length && (
        <p className={layout.quiet}>Nothing of what differs fits what you chose.</p>
      )}
      {changes.length === 0 && <p>Both states say the same.</p>}
      {without.length > 0 && (
        <section aria-label="Without effect">
          <h2>{withoutEffect(comparison)}</h2>
          <p>{without.map(({ rule, is }) => `${rule} ${is}`).join(', ')}</p>
        </section>
      )}
      {notCompared.length > 0 && (
        <p className={layout.refused}>
          Not compared, for they have too many cases: {notCompared.join(', ')}.
        </p>
      )}
      {notFrom !== null && (
        <p>
          Not compared from <Moment at={notFrom} /> on: there are too many dates.
        </p>
      )}
    </div>
  );
}

function ChangeTitle({
  change: { rule, is, lineBefore, lineAfter },
  before,
  after,
}: {
  change: Change;
  before: string;
  after: string;
}) {
  const { site } = useOutletContext<SiteFrame>();
  const [state, line] = lineAfter === null ? [before, lineBefore] : [after, lineAfter];
  const query = new URLSearchParams({
    ...(state === 'draft' || state.startsWith('changes-') ? {} : { state }),
    line: String(line),
  });
  return (
    <h2>
      {line === null ? rule : <Link to={`/sites/${site.id}/file?${query.toString()}`}>{rule}</Link>}{' '}
      <span className={layout.quiet}>{is}</span>
    </h2>
  );
}

function People({
  people: { is, words, from, visitors, places },
  before,
  after,
}: {
  people: ComparedPeople;
  before: string;
  after: string;
}) {
  const { sign, word } = GAINS[is];
  return (
    <li>
      <p className={css.people}>
        <strong className={css[is]}>
          <span aria-hidden>{sign}</span> {word}:
        </strong>{' '}
        {words}
        {from !== null && (
          <>
            {' '}
            from <Moment at={from} />
          </>
        )}
        {visitors.length > 0 && <span className={layout.quiet}> ({visitors.join(', ')})</span>}
      </p>
      {places.map(({ differences }) => (
        <Places
          key={JSON.stringify(differences[0])}
          differences={differences}
          before={before}
          after={after}
        />
      ))}
    </li>
  );
}

function Places({
  differences,
  before,
  after,
}: {
  differences: readonly [Difference, ...Difference[]];
  before: string;
  after: string;
}) {
  const { site } = useOutletContext<SiteFrame>();
  const [isWhole, setIsWhole] = useState(false);
  const [first] = differences;
  const { kind, right, witness } = first;
  const listed = isWhole ? differences : differences.slice(0, SHOWN);
  const left = differences.length - listed.length;
  return (
    <p className={css.places}>
      {right === 'change' && 'changing '}
      {COMPARED_KINDS[kind]}{' '}
      {first.before && first.after && (
        <>
          {!first.how && (
            <>
              <OutcomeTag outcome={first.before.outcome} status={first.before.status} />
              {' → '}
            </>
          )}
          <OutcomeTag outcome={first.after.outcome} status={first.after.status} />{' '}
          {first.how && `${WHAT_DIFFERS[first.how.what]}: `}
        </>
      )}
      {listed.map(({ about, within, through, title }, i) => (
        <span key={`${about} ${within.join()}`} title={title || undefined}>
          {i > 0 && ', '}
          <code>{about}</code>
          {within.length > 0 && ` (${within.join(', ')})`}
          {through.length > 0 && (
            <span className={layout.quiet}> also through {through.join(', ')}</span>
          )}
        </span>
      ))}
      {differences.length === 1 && first.how && (
        <span className={layout.quiet}> ({wasAndIs(first.how)})</span>
      )}
      {left > 0 && (
        <>
          {' '}
          <Button size="small" onClick={() => setIsWhole(true)}>
            {left} more
          </Button>
        </>
      )}
      {witness && kind !== 'part' && kind !== 'landing' && (
        <span className={css.witness}>
          {' '}
          See it <Link to={witnessAddress(witness, site.id, before)}>before</Link> and{' '}
          <Link to={witnessAddress(witness, site.id, after)}>after</Link>
        </span>
      )}
    </p>
  );
}
