import type { Check } from '@kleidon/client';
import type { model, queries } from '@kleidon/core';
import { USUAL_SERVICE } from '../options.ts';
import { bold, count, dim, red, yellow } from './style.ts';
import { wrapped } from './wrapped.ts';

/** Which site file a command is about, as its options say it. */
export interface About {
  readonly file?: string | undefined;
  readonly site?: string | undefined;
  readonly service?: string | undefined;
}

/** Errors as compilers print them, so that editors can jump to each. */
export function printErrors(errors: readonly queries.ExplainedError[]): string {
  const lines = errors.map((error) => printOne(error, red(`error ${error.code}`)));
  return [...lines, count(errors.length, 'error')].join('\n');
}

/** The errors and findings of a site file. */
export function printCheck(
  { errors, findings, guarantees = [] }: Pick<Check, 'errors' | 'findings'> & Partial<Check>,
  about: About,
): string {
  if (errors.length > 0) return printErrors(errors);
  const file = fileOf(about);
  const broken = guarantees.filter(isBroken);
  const proved = guarantees.length - broken.length;
  const summary = [
    count(broken.length, 'error'),
    count(findings.length, 'finding'),
    ...(proved > 0 ? [`${count(proved, 'guarantee')} proved`] : []),
  ];
  return [
    ...broken.map((one) => printBroken(one, file)),
    ...findings.map((finding) => printFinding(finding, about)),
    summary.join(', '),
  ].join('\n');
}

type Guarantee = Check['guarantees'][number];

/** Whether a check has errors, broken guarantees, or findings that count. */
export const hasFailed = (
  { errors, findings, guarantees }: Check,
  counts: (finding: model.Finding) => boolean,
): boolean => errors.length > 0 || guarantees.some(isBroken) || findings.some(counts);

/** A check with the visits that were expected; those that end otherwise are errors. */
export function printVerified(check: Check, about: About): string {
  if (check.errors.length > 0) return printErrors(check.errors);
  const file = fileOf(about);
  const wrong = check.visits.filter(({ isAsExpected }) => !isAsExpected);
  const lines = wrong.map(({ name, words, message, line, column }) =>
    printOne(
      { file, line, column, message: `Expected visit ${name}: ${words}.`, remedy: message },
      red('visit-unexpected'),
    ),
  );
  const met = check.visits.length - wrong.length;
  const visits = `${met} of ${count(check.visits.length, 'visit')} as expected`;
  return [...lines, `${printCheck(check, about)}, ${visits}`].join('\n');
}

/** What the site file is called where a check is about it. */
export const fileOf = ({ file, site }: About): string => file ?? `${site ?? 'site'}.site.yaml`;

/** A guarantee that does not hold, or of which it is not known whether it does. */
export const isBroken = ({ is }: Guarantee): boolean => is !== 'proved';

const printBroken = ({ name, words, message, line, column }: Guarantee, file: string): string =>
  printOne(
    {
      file,
      line,
      column,
      message: `Guarantee ${name}: ${words}.`,
      remedy: message,
    },
    red('error guarantee-broken'),
  );

/** What a save or a release brings that was not there before; nothing where that is nothing. */
export function printIntroduced(findings: readonly model.Finding[], about: About): string[] {
  if (findings.length === 0) return [];
  return [
    `It brings ${count(findings.length, 'finding')}:`,
    ...findings.map((finding) => printFinding(finding, about)),
  ];
}

const printFinding = (finding: model.Finding, about: About): string =>
  printOne(finding, yellow(`${finding.severity} ${finding.code}`), fixOf(finding, about));

/** The command that fixes a finding, to be pasted as it is. */
function fixOf({ code, about, fix }: model.Finding, { file, site, service }: About): string {
  if (fix === null) return '';
  const options =
    file !== undefined
      ? { file }
      : { site, service: service === USUAL_SERVICE ? undefined : service };
  const where = Object.entries(options)
    .map(([name, value]) => (value === undefined ? '' : ` --${name} ${quoted(value)}`))
    .join('');
  return `\n    kleidon fix ${code} --about ${quoted(about)}${where}`;
}

/** A word as a POSIX shell takes it. */
const quoted = (text: string): string =>
  /^[\w./:@%+=-]+$/.test(text) ? text : `'${text.replace(/'/g, "'\\''")}'`;

function printOne(
  {
    file,
    line,
    column,
    message,
    remedy,
  }: Pick<queries.ExplainedError, 'file' | 'line' | 'column' | 'message' | 'remedy'>,
  label: string,
  note = '',
): string {
  return [
    `${bold(`${file}:${line}:${column}`)} ${label}`,
    wrapped('  ', message),
    wrapped('  → ', remedy) + dim(note),
  ].join('\n');
}
