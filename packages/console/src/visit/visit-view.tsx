import { clsx } from 'clsx';
import { Link } from 'react-router';
import {
  isLeftToWebsite,
  OUTCOME_WORDS,
  WEBSITE_DECIDES,
  type MadeUpVisitor,
} from '@kleidon/client';
import type { queries } from '@kleidon/core';
import { Shown } from './chain-view.tsx';
import { OutcomeTag } from './outcome-tag.tsx';
import css from './visit.module.css';
import outcomes from '../style/outcomes.module.css';
import layout from '../style/layout.module.css';

/** A visit: how it ended, then each hop with its reasons and the way to the rule that decided. */
export function VisitView({
  visit,
  ruleAt,
  visitAs,
}: {
  visit: queries.ExplainedVisit;
  ruleAt: (line: number) => string;
  /** Where the same is tried as someone else. */
  visitAs: (visitor: MadeUpVisitor) => string;
}) {
  const { sign, word, meaning } = OUTCOME_WORDS[visit.outcome];
  const isWebsites = isLeftToWebsite(visit.hops.at(-1)!.decision);
  const redirects = visit.hops.filter(({ decision }) => decision.location !== null).length;
  return (
    <div className={css.visit}>
      <p className={clsx(css.end, outcomes[visit.outcome])}>
        <strong>
          <span aria-hidden>{sign}</span> {word}
        </strong>
        : {isWebsites ? 'gets what the website has there' : meaning}
        {visit.fullAccess && ', by full access'}
      </p>
      <dl className={css.facts}>
        <dt>Status</dt>
        <dd>{isWebsites ? WEBSITE_DECIDES : visit.status}</dd>
        <dt>Final address</dt>
        <dd>
          <code>{visit.final}</code>
        </dd>
        <dt>Redirects</dt>
        <dd>{redirects}</dd>
      </dl>
      {visit.ordinary.length > 0 && (
        <section aria-label="Without full access">
          <p>
            <strong>Without full access:</strong>
          </p>
          <ul>
            {visit.ordinary.map(({ who, visitor, outcome, status, final }) => (
              <li key={who}>
                <Link to={visitAs({ ...visitor })} aria-label={`Visit as ${who}`}>
                  {who}
                </Link>{' '}
                <OutcomeTag outcome={outcome} status={status} /> at <code>{final}</code>
              </li>
            ))}
          </ul>
        </section>
      )}
      <ol className={css.hops}>
        {visit.hops.map((hop, i) => (
          <HopView key={i} hop={hop} ruleAt={ruleAt} />
        ))}
      </ol>
    </div>
  );
}

function HopView({
  hop: { address, decision },
  ruleAt,
}: {
  hop: queries.ExplainedHop;
  ruleAt: (line: number) => string;
}) {
  const mattered = decision.reasons.filter(({ verdict }) => verdict !== 'passed');
  const passed = decision.reasons.filter(({ verdict }) => verdict === 'passed');
  return (
    <li>
      <p className={css.hop}>
        <code>{address}</code>{' '}
        <span className={css.status}>
          {isLeftToWebsite(decision) ? WEBSITE_DECIDES : decision.status}
          {decision.location !== null && (
            <>
              {' → '}
              <code>{decision.location}</code>
            </>
          )}
        </span>
      </p>
      <ul className={css.reasons}>
        {mattered.map((reason, i) => (
          <ReasonView key={i} reason={reason} ruleAt={ruleAt} />
        ))}
      </ul>
      {passed.length > 0 && (
        <details className={layout.quiet}>
          <summary>
            {passed.length === 1 ? '1 step' : `${passed.length} steps`} without effect
          </summary>
          <ul className={css.reasons}>
            {passed.map((reason, i) => (
              <ReasonView key={i} reason={reason} ruleAt={ruleAt} />
            ))}
          </ul>
        </details>
      )}
      {decision.content && <Shown content={decision.content} />}
    </li>
  );
}

function ReasonView({
  reason: { stage, verdict, text, place, rule },
  ruleAt,
}: {
  reason: queries.ExplainedReason;
  ruleAt: (line: number) => string;
}) {
  return (
    <li className={clsx(css.reason, verdict === 'passed' && css.passed)}>
      <span className={css.stage}>{stage}</span>
      <span>
        {text}{' '}
        {place &&
          (place.file === undefined ? (
            <Link
              to={ruleAt(place.line)}
              aria-label={`${rule} in the site file, line ${place.line}`}
            >
              line {place.line}
            </Link>
          ) : (
            <span className={layout.quiet}>
              {place.file}, line {place.line}
            </span>
          ))}
      </span>
    </li>
  );
}
