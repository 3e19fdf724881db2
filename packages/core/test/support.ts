import { readFileSync } from 'node:fs';
import { isDeepStrictEqual } from 'node:util';
import { decisions, type model, queries, siteFiles } from '../src/index.ts';
import { GUEST } from '../src/model/visitor.ts';
import { describeReason } from '../src/wording/reason.ts';

export { GUEST };

/** The time at which tests ask, unless they say otherwise. */
export const NOW = Date.UTC(2026, 10, 23, 12);

const HEAD = `kleidon: 1
site: { name: Test, address: https://test.example, sign-in: /sign-in }
`;

/** A site from what stands below its head; every error of the file fails the test. */
export function siteOf(body: string, head = HEAD): decisions.PreparedSite {
  const read = siteFiles.readSite(head + body, 'test.yaml');
  if (!read.ok) throw new Error(queries.explainErrors(read.errors).map(printError).join('\n'));
  return decisions.prepareSite(read.site);
}

/** Expects the same of thousands of samples: what Jest does for each of them takes longer than what is tested. */
export function expectEqual(actual: unknown, expected: unknown): void {
  if (!isDeepStrictEqual(actual, expected)) expect(actual).toEqual(expected);
}

/** The errors of a site file, with the head of `siteOf`. */
export function errorsOf(body: string, head = HEAD): readonly queries.ExplainedError[] {
  const read = siteFiles.readSite(head + body, 'test.yaml');
  return read.ok ? [] : queries.explainErrors(read.errors);
}

export const printError = (error: queries.ExplainedError): string =>
  `${error.file}:${error.line}:${error.column} ${error.code} ${error.message} ${error.remedy}`;

/** What reasons say. */
export const textsOf = (reasons: readonly model.Reason[]): string[] =>
  reasons.map((reason) => describeReason(reason, 'UTC'));

/** The site file of the sample site. */
export function sampleText(): string {
  return readFileSync(new URL('../../../demo/merrow-point.site.yaml', import.meta.url), 'utf8');
}

/** The sample site. */
export function sampleSite(): decisions.PreparedSite {
  const read = siteFiles.readSite(sampleText(), 'merrow-point.site.yaml');
  if (!read.ok) throw new Error(queries.explainErrors(read.errors).map(printError).join('\n'));
  return decisions.prepareSite(read.site);
}

/** Someone signed in, with what is said of them. */
export function someone(traits: Partial<model.Visitor> = {}): model.Visitor {
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
