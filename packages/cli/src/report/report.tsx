import { renderToStaticMarkup } from 'react-dom/server';
import {
  COMPARED_KINDS,
  comparedPeople,
  dayIn,
  FULL_ACCESS,
  GAINS,
  howInWords,
  OUTCOME_WORDS,
  withoutEffect,
  type Check,
  type Comparison,
  type ComparedPeople,
} from '@kleidon/client';
import { decisions, formats, type queries } from '@kleidon/core';
import { STYLE } from './style.css.ts';

/** What a report is made of. */
export interface Reported {
  /** Which state of the site it is about. */
  readonly state: string;
  readonly check: Check;
  /** Null where the site file has errors, as is what follows. */
  readonly grid: decisions.Grid | null;
  readonly pages: readonly queries.ListedPage[];
  /** What changed, and since which state; null where nothing is compared. */
  readonly changes: { readonly since: string; readonly comparison: Comparison } | null;
}

/** A page that says all of a site to someone who signs it off; it needs nothing besides. */
export function reportOf(reported: Reported): string {
  const page = renderToStaticMarkup(<Report {...reported} />);
  return formats.asXmlText(`<!doctype html>\n${page}\n`);
}

function Report({ state, check, grid, pages, changes }: Reported) {
  const title = grid ? grid.site : 'Site file with errors';
  return (
    <html lang="en">
      <head>
        <meta charSet="utf-8" />
        <meta name="viewport" content="width=device-width" />
        <title>{`${title}: report`}</title>
        <style dangerouslySetInnerHTML={{ __html: STYLE }} />
      </head>
      <body>
        <h1>{title}</h1>
        <p className="quiet">
          {state}
          {grid && `, at ${grid.at}`}
        </p>
        <Summary check={check} changes={changes} />
        {check.errors.length > 0 && <Errors errors={check.errors} />}
        {changes && <Changes {...changes} />}
        {check.guarantees.length > 0 && <Guarantees guarantees={check.guarantees} />}
        {check.visits.length > 0 && <Visits visits={check.visits} />}
        {grid && <Findings findings={check.findings} />}
        {grid && <WhoReaches pages={pages} />}
        {grid && <Grid grid={grid} />}
      </body>
    </html>
  );
}

function Summary({ check, changes }: Pick<Reported, 'check' | 'changes'>) {
  const { errors, findings, guarantees, visits } = check;
  const proved = guarantees.filter(({ is }) => is === 'proved').length;
  const met = visits.filter(({ isAsExpected }) => isAsExpected).length;
  const lines: readonly (readonly [isGood: boolean, text: string])[] = [
    [errors.length === 0, counted(errors.length, 'error')],
    [
      proved === guarantees.length,
      `${proved} of ${counted(guarantees.length, 'guarantee')} proved`,
    ],
    [met === visits.length, `${met} of ${counted(visits.length, 'expected visit')} as expected`],
    [findings.length === 0, counted(findings.length, 'finding')],
  ];
  return (
    <ul>
      {lines.map(([isGood, text]) => (
        <li key={text} className={isGood ? 'good' : 'bad'}>
          {isGood ? '✓' : '×'} {text}
        </li>
      ))}
      {changes && (
        <li>
          {counted(changes.comparison.changes.length, 'change')} since {changes.since}
        </li>
      )}
    </ul>
  );
}

const counted = (number: number, one: string): string =>
  `${number} ${one}${number === 1 ? '' : 's'}`;

const Errors = ({ errors }: Pick<Check, 'errors'>) => (
  <>
    <h2>Errors</h2>
    <ul>
      {errors.map(({ file, line, column, message, remedy }) => (
        <li key={`${line}:${column} ${message}`}>
          <code>
            {file}:{line}
          </code>{' '}
          {message} {remedy}
        </li>
      ))}
    </ul>
  </>
);

function Changes({ since, comparison }: NonNullable<Reported['changes']>) {
  const { changes, differences, total, notCompared } = comparison;
  const without = changes.filter((change) => change.differences === 0);
  return (
    <>
      <h2>Changes since {since}, for every visitor there could be</h2>
      {changes.length === 0 && <p>None.</p>}
      {changes.map((change, i) => (
        <Change
          key={`${change.rule} ${change.is}`}
          change={change}
          people={comparedPeople(differences, i)}
          timeZone={comparison.timeZone}
        />
      ))}
      {without.length > 0 && (
        <p>
          {withoutEffect(comparison)}: {without.map(({ rule, is }) => `${rule} ${is}`).join(', ')}.
        </p>
      )}
      {notCompared.length > 0 && (
        <p className="bad">Not compared, for they have too many cases: {notCompared.join(', ')}.</p>
      )}
      {differences.length < total && (
        <p>
          The first {differences.length} of {total} differences are told.
        </p>
      )}
    </>
  );
}

function Change({
  change,
  people,
  timeZone,
}: {
  change: Comparison['changes'][number];
  people: readonly ComparedPeople[];
  timeZone: string;
}) {
  if (people.length === 0) return null;
  return (
    <>
      <h3>
        {change.rule} {change.is}
      </h3>
      <ul>
        {people.map(({ is, words, from, visitors, places }) => (
          <li key={`${is} ${words} ${from}`}>
            <strong className={is === 'gains' ? 'good' : is === 'loses' ? 'bad' : 'quiet'}>
              {GAINS[is].sign} {GAINS[is].word}:
            </strong>{' '}
            {words}
            {from !== null && ` from ${dayIn(timeZone, from)}`}
            {visitors.length > 0 && <span className="quiet"> ({visitors.join(', ')})</span>}
            {places.map(({ differences: [first, ...others] }) => (
              <p key={`${first.kind} ${first.right} ${first.about}`}>
                {first.right === 'change' && 'changing '}
                {COMPARED_KINDS[first.kind]}
                {howInWords(first, (end) => ` ${inShort(end)}`)}
                {': '}
                <code>{[first, ...others].map(({ about }) => about).join(', ')}</code>
              </p>
            ))}
          </li>
        ))}
      </ul>
    </>
  );
}

const inShort = ({ outcome, status }: Pick<decisions.Cell, 'outcome' | 'status'>): string =>
  `${OUTCOME_WORDS[outcome].word} (${status})`;

const Guarantees = ({ guarantees }: Pick<Check, 'guarantees'>) => (
  <>
    <h2>Guarantees</h2>
    <ul>
      {guarantees.map(({ name, words, note, is, message }) => (
        <li key={name}>
          <strong className={is === 'proved' ? 'good' : 'bad'}>
            {is === 'proved' ? '✓' : '×'}
          </strong>{' '}
          {words}
          {note !== null && <span className="quiet"> ({note})</span>}
          <p className={is === 'proved' ? 'quiet' : 'bad'}>{message}</p>
        </li>
      ))}
    </ul>
  </>
);

const Visits = ({ visits }: Pick<Check, 'visits'>) => (
  <>
    <h2>Expected visits</h2>
    <ul>
      {visits.map(({ name, words, isAsExpected, message }) => (
        <li key={name}>
          <strong className={isAsExpected ? 'good' : 'bad'}>{isAsExpected ? '✓' : '×'}</strong>{' '}
          {words}
          {!isAsExpected && <p className="bad">{message}</p>}
        </li>
      ))}
    </ul>
  </>
);

const Findings = ({ findings }: Pick<Check, 'findings'>) => (
  <>
    <h2>Findings</h2>
    {findings.length === 0 && <p>None.</p>}
    <ul>
      {findings.map(({ severity, code, line, message, remedy }) => (
        <li key={`${code} ${line} ${message}`}>
          <strong>{severity}</strong> {message} {remedy}{' '}
          <span className="quiet">
            ({code}, line {line})
          </span>
        </li>
      ))}
    </ul>
  </>
);

const WhoReaches = ({ pages }: Pick<Reported, 'pages'>) => (
  <>
    <h2>Who reaches each page</h2>
    <table>
      <thead>
        <tr>
          <th scope="col">Page</th>
          <th scope="col">Title</th>
          <th scope="col">Who reaches it</th>
        </tr>
      </thead>
      <tbody>
        {pages.map(({ address, title, words, byFullAccess, closed, others }) => (
          <tr key={address}>
            <td>
              <code>{address}</code>
            </td>
            <td>{title}</td>
            <td>
              {words}
              {closed !== null && ` (${closed})`}
              {byFullAccess !== null && (
                <span className="quiet">; by full access: {byFullAccess}</span>
              )}
              {others === null && <p>Not known for all of its addresses.</p>}
              {others?.map((family) => (
                <p key={family.example}>
                  {family.within.join(', and of ') || family.example}: {family.words}
                  {family.closed !== null && ` (${family.closed})`}
                </p>
              ))}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  </>
);

function Grid({ grid: { visitors, rows } }: { grid: decisions.Grid }) {
  return (
    <>
      <h2>Reach grid</h2>
      <div className="scroll">
        <table className="grid">
          <caption>
            {decisions.OUTCOMES.map(
              (outcome) => `${OUTCOME_WORDS[outcome].sign} ${OUTCOME_WORDS[outcome].word}`,
            ).join(' · ')}
            {` · ${FULL_ACCESS.sign} ${FULL_ACCESS.word}`}
          </caption>
          <thead>
            <tr>
              <th scope="col">Page</th>
              {visitors.map(({ name, title, summary }) => (
                <th key={name} scope="col" title={summary}>
                  {title}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map(({ address, cells }) => (
              <tr key={address}>
                <td>
                  <code>{address}</code>
                </td>
                {visitors.map(({ name }) => {
                  const { outcome, status, fullAccess } = cells[name]!;
                  const { sign, word } = fullAccess ? FULL_ACCESS : OUTCOME_WORDS[outcome];
                  return (
                    <td key={name} title={`${word} ${status}`}>
                      {sign}
                    </td>
                  );
                })}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </>
  );
}
