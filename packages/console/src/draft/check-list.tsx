import { Button } from 'antd';
import type { Check } from '@kleidon/client';
import type { model, queries } from '@kleidon/core';
import { clsx } from 'clsx';
import layout from '../style/layout.module.css';
import css from './site-file.module.css';

interface Props {
  readonly check: Check | null;
  /** Why nothing can be fixed at the moment; null when it can. */
  readonly whyNotFixable: string | null;
  onGoTo(line: number): void;
  onFix(finding: model.Finding): void;
}

/** Errors and findings of the text as it stands, each a way to its line, and where possible to its fix. */
export function CheckList({ check, whyNotFixable, onGoTo, onFix }: Props) {
  if (!check)
    return <aside className={clsx(layout.panel, css.checks)} aria-label="Errors and findings" />;
  const { errors, findings } = check;
  return (
    <aside className={clsx(layout.panel, css.checks)} aria-label="Errors and findings">
      <h2 role="status">
        {errors.length === 0
          ? 'No errors'
          : `${errors.length} error${errors.length === 1 ? '' : 's'}`}
        {findings.length > 0 && `, ${findings.length} finding${findings.length === 1 ? '' : 's'}`}
      </h2>
      <ul className={layout.plain}>
        {[...errors, ...findings].map((one) => (
          <li key={`${one.file}:${one.line}:${one.column}:${one.code}:${one.message}`}>
            {isInList(one) ? (
              <strong>
                {one.file}, line {one.line}, column {one.column}
              </strong>
            ) : (
              <Button type="link" size="small" onClick={() => onGoTo(one.line)}>
                Line {one.line}, column {one.column}
              </Button>
            )}{' '}
            <span className={css.codeName}>{severityOf(one)}</span>
            <br />
            {one.message} {one.remedy}{' '}
            {'fix' in one && one.fix !== null && (
              <Button
                size="small"
                disabled={whyNotFixable !== null}
                title={whyNotFixable ?? 'Changes the draft and saves it'}
                onClick={() => onFix(one)}
              >
                Fix it
              </Button>
            )}
          </li>
        ))}
      </ul>
      {errors.length === 0 && findings.length === 0 && (
        <p className={layout.quiet}>Nothing looks wrong in this file.</p>
      )}
    </aside>
  );
}

const severityOf = (one: queries.ExplainedError | model.Finding): string =>
  'severity' in one ? `finding ${one.code} (${one.severity})` : `error ${one.code}`;

/** Something in a list beside the site file, which the editor does not show. */
const isInList = ({ file }: queries.ExplainedError | model.Finding): boolean =>
  /\.csv$/i.test(file);
