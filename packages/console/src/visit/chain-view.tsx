import { isLeftToWebsite, WEBSITE_DECIDES } from '@kleidon/client';
import type { decisions, queries } from '@kleidon/core';
import { OutcomeTag } from './outcome-tag.tsx';
import css from './visit.module.css';
import layout from '../style/layout.module.css';

/** A visit drawn as the way it goes: each address with its answer, and an arrow to the next. */
export function ChainView({ visit }: { visit: queries.ExplainedVisit }) {
  const { hops, outcome, final } = visit;
  const last = hops.at(-1)!;
  const isBeyond = last.decision.location !== null;
  return (
    <div className={css.chainFrame}>
      <ol className={css.chain} aria-label={`Where ${hops[0]!.address} leads`}>
        {hops.map((hop, i) => (
          <li key={i}>
            <code>{hop.address}</code>
            <span className={css.status}>
              {isLeftToWebsite(hop.decision) ? WEBSITE_DECIDES : hop.decision.status}
              {ruleOf(hop) !== null && <span className={layout.quiet}> by {ruleOf(hop)}</span>}
            </span>
          </li>
        ))}
        {isBeyond && (
          <li>
            <code>{final}</code>
          </li>
        )}
      </ol>
      <p>
        <OutcomeTag
          outcome={outcome}
          {...(isLeftToWebsite(last.decision) ? {} : { status: visit.status })}
        />
        {last.decision.served !== null && (
          <span className={layout.quiet}>
            {' '}
            served from <code>{last.decision.served}</code>
          </span>
        )}
      </p>
      {hops.map(
        ({ decision }, i) => decision.content && <Shown key={i} content={decision.content} />,
      )}
    </div>
  );
}

/** The rule that sent on. */
function ruleOf({ decision }: queries.ExplainedHop): string | null {
  if (decision.location === null) return null;
  const decided = decision.reasons.findLast(
    ({ verdict }) => verdict === 'redirected' || verdict === 'refused',
  );
  return decided?.rule ?? null;
}

/** What stands in an answer instead of a page. */
export function Shown({ content }: { content: decisions.Content }) {
  switch (content.is) {
    case 'words':
      return <blockquote>{content.text}</blockquote>;
    case 'page':
      return (
        <p className={layout.quiet}>
          Shown: the page <code>{content.address}</code>
        </p>
      );
    case 'wait':
      return (
        <blockquote>
          {content.text !== null && <>{content.text} </>}
          <span className={layout.quiet}>
            A link to <code>{content.to}</code>, followed after {content.seconds} seconds
          </span>
        </blockquote>
      );
    case 'offers':
      return (
        <ul className={layout.plain}>
          {content.choices.map((set) => (
            <li key={set.map(({ product }) => product).join(' ')}>
              {set.map(({ product, title, buyAt }, i) => (
                <span key={product}>
                  {i > 0 && ' and '}
                  {title} at <code>{buyAt}</code>
                </span>
              ))}
            </li>
          ))}
        </ul>
      );
  }
}
