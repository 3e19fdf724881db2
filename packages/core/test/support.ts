import { readFileSync } from 'node:fs';
import {
  prepareSite,
  readSite,
  type PreparedSite,
  type Reason,
  explainErrors,
  type ExplainedError,
  type Visitor,
} from '../src/index.ts';
import { GUEST } from '../src/model/visitor.ts';
import { describeReason } from '../src/wording/reason.ts';

export { GUEST };

/** The time at which tests ask, unless they say otherwise. */
export const NOW = Date.UTC(2026, 10, 23, 12);

const HEAD = `kleidon: 1
site: { name: Test, address: https://test.example, sign-in: /sign-in }
`;

/** A site from what stands below its head; every error of the file fails the test. */
export function siteOf(body: string, head = HEAD): PreparedSite {
  const read = readSite(head + body, 'test.yaml');
  if (!read.ok) throw new Error(explainErrors(read.errors).map(printError).join('\n'));
  return prepareSite(read.site);
}

/** The errors of a site file, with the head of `siteOf`. */
export function errorsOf(body: string, head = HEAD): readonly ExplainedError[] {
  const read = readSite(head + body, 'test.yaml');
  return read.ok ? [] : explainErrors(read.errors);
}

export const printError = (error: ExplainedError): string =>
  `${error.file}:${error.line}:${error.column} ${error.code} ${error.message} ${error.remedy}`;

/** What reasons say. */
export const textsOf = (reasons: readonly Reason[]): string[] =>
  reasons.map((reason) => describeReason(reason, 'UTC'));

/** The site file of the sample site. */
export function sampleText(): string {
  return readFileSync(new URL('../../../demo/merrow-point.site.yaml', import.meta.url), 'utf8');
}

/** The sample site. */
export function sampleSite(): PreparedSite {
  const read = readSite(sampleText(), 'merrow-point.site.yaml');
  if (!read.ok) throw new Error(explainErrors(read.errors).map(printError).join('\n'));
  return prepareSite(read.site);
}

/** Someone signed in, with what is said of them. */
export function someone(traits: Partial<Visitor> = {}): Visitor {
  return {
    ...GUEST,
    name: 'sam',
    title: 'Sam',
    guest: false,
    id: 'sam',
    summary: 'signed in',
    ...traits,
  };
}
