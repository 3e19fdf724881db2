import type { SiteValue } from '../edits/edit.ts';
import { isSame } from '../edits/change-value.ts';
import { readTable } from '../formats/csv.ts';
import { COLUMNS, redirectFrom } from '../site/redirect-columns.ts';
import { isRecord } from '../site/schema-kinds.ts';
import { sortOut, takeOnce } from './check-entries.ts';
import type { CsvProposal } from './pages-csv.ts';
import type { Change, NotTaken } from './proposal.ts';

/** What of a CSV file of redirects is new, what changes one that is there, and what became of the rest. */
export interface RedirectsProposal extends CsvProposal {
  readonly changes: readonly Change[];
}

/**
 * Proposes the redirects of a CSV file. One with the same `from` and `when` as a redirect of the site
 * file changes that one; status codes are taken for kinds.
 *
 * @param site the site file as plain values
 * @throws CsvProblem
 */
export function proposeRedirectsFromCsv(site: SiteValue, text: string): RedirectsProposal {
  const { rows, unread } = readTable(text, COLUMNS, 'from');
  const there = new Map(
    (Array.isArray(site['redirects']) ? (site['redirects'] as unknown[]) : [])
      .filter(isRecord)
      .map((redirect) => [keyOf(redirect), redirect]),
  );
  const refused: NotTaken[] = [];
  const taken = new Map<string, { value: Readonly<Record<string, unknown>>; line: number }>();
  for (const row of rows) {
    const value = redirectFrom(row);
    const what = String(row.values.from);
    takeOnce(taken, refused, keyOf(value), { value, line: row.line }, what);
  }
  const entries = [...taken.values()].map(({ value, line }) => ({
    name: typeof value['from'] === 'string' ? value['from'] : '',
    value,
    line,
  }));
  const sorted = sortOut(site, 'redirects', entries, refused);
  const values = sorted.additions.map((addition) => ({
    addition,
    was: there.get(keyOf(addition.value as Readonly<Record<string, unknown>>)),
  }));
  return {
    additions: values.filter(({ was }) => was === undefined).map(({ addition }) => addition),
    changes: values.flatMap(({ addition: { name, value, line }, was }) =>
      was === undefined || isSame(was, value)
        ? []
        : [{ name, was, value, ...(line === undefined ? {} : { line }) }],
    ),
    known: values.filter(({ addition, was }) => was !== undefined && isSame(was, addition.value))
      .length,
    elsewhere: 0,
    refused: sorted.refused,
    unread,
  };
}

const keyOf = (redirect: Readonly<Record<string, unknown>>): string =>
  JSON.stringify([redirect['from'], redirect['when'] ?? null]);
