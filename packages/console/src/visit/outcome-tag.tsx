import { clsx } from 'clsx';
import type { ReactNode } from 'react';
import { OUTCOME_WORDS } from '@kleidon/client';
import type { decisions } from '@kleidon/core';
import layout from '../style/layout.module.css';
import outcomes from '../style/outcomes.module.css';

interface Props {
  readonly outcome: decisions.Outcome;
  readonly status?: number;
  readonly fullAccess?: boolean;
  readonly title?: string;
}

/** How a visit ends: sign, word and status, so that colour is never the only signal. */
export function OutcomeTag({ outcome, status, fullAccess = false, title }: Props): ReactNode {
  const { sign, word } = OUTCOME_WORDS[outcome];
  return (
    <span className={clsx(layout.tag, outcomes[outcome])} title={title}>
      <span aria-hidden>{sign}</span> {word}
      {status !== undefined && ` ${status}`}
      {fullAccess && ', by full access'}
    </span>
  );
}
