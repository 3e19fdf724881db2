import type { Check } from '@kleidon/client';
import type { Finding, SiteError } from '@kleidon/core';
import { bold, count, dim, red, yellow } from './style.ts';

/** Errors as compilers print them, so that editors can jump to each. */
export function printErrors(errors: readonly SiteError[]): string {
  const lines = errors.map((error) => printOne(error, red(`error ${error.code}`)));
  return [...lines, count(errors.length, 'error')].join('\n');
}

/** The errors and findings of a site file. */
export function printCheck({ errors, findings }: Check): string {
  if (errors.length > 0) return printErrors(errors);
  const lines = findings.map((finding) =>
    printOne(finding, yellow(`${finding.severity} ${finding.code}`), fixOf(finding)),
  );
  return [...lines, `${count(0, 'error')}, ${count(findings.length, 'finding')}`].join('\n');
}

const fixOf = ({ code, about, fix }: Finding): string =>
  fix === null ? '' : `\n    kleidon mend ${code} --about '${about}' does it`;

function printOne(
  { file, line, column, message, remedy }: SiteError | Finding,
  label: string,
  more = '',
): string {
  return `${bold(`${file}:${line}:${column}`)} ${label}\n  ${message}\n  ${dim('→')} ${remedy}${dim(more)}`;
}
