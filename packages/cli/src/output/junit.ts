import type { Check } from '@kleidon/client';
import { formats, type model, type queries } from '@kleidon/core';
import { isBroken } from './check.ts';

/** A check as a report in JUnit XML: a case for each error and finding that counts, or one that passed. */
export function checkAsJunit(
  command: string,
  file: string,
  { errors, findings, guarantees, visits }: Check,
  counts: (finding: model.Finding) => boolean,
): string {
  const place = ({ file, line, column }: queries.ExplainedError | model.Finding): string =>
    `${file}:${line}:${column}`;
  const cases = [
    ...errors.map((error): formats.TestCase => ({
      suite: 'errors',
      name: `${place(error)} ${error.code}`,
      failure: `${error.message} ${error.remedy}`,
      skipped: null,
    })),
    ...guarantees.map((one): formats.TestCase => ({
      suite: 'guarantees',
      name: `${file}:${one.line}:${one.column} ${one.words}`,
      failure: isBroken(one) ? one.message : null,
      skipped: null,
    })),
    ...visits.map((one): formats.TestCase => ({
      suite: 'expected visits',
      name: `${file}:${one.line}:${one.column} ${one.words}`,
      failure: one.isAsExpected ? null : one.message,
      skipped: null,
    })),
    ...findings.map((finding): formats.TestCase => {
      const text = `${finding.message} ${finding.remedy}`;
      return {
        suite: 'findings',
        name: `${place(finding)} ${finding.code}: ${finding.about}`,
        failure: counts(finding) ? text : null,
        skipped: counts(finding) ? null : text,
      };
    }),
  ];
  const none = {
    suite: 'findings',
    name: 'no errors and no findings',
    failure: null,
    skipped: null,
  };
  return formats.writeJunit(command, cases.length === 0 ? [none] : cases);
}
