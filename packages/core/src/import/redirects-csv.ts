import { readAddress } from '../address/address.ts';
import { type SiteValue, isRecord } from '../model/plain-value.ts';
import { tidyOf } from '../site/read/reader-for.ts';
import { isSame } from '../site/edit/change-value.ts';
import { readTable } from '../formats/csv.ts';
import { COLUMNS, redirectFrom } from '../site/fields/redirect-columns.ts';
import { partitionValid, type LineEntry } from './check-entries.ts';
import { hasPieces } from '../pattern/literally.ts';
import type { CsvProposal } from './pages-csv.ts';
import type { RowProblem } from '../model/row-problem.ts';
import type { Change, RejectedRow } from './proposal.ts';

/** What of a CSV file of redirects is new, what changes one that is there, and what became of the rest. */
export interface RedirectsProposal extends CsvProposal {
  readonly changes: readonly Change[];
}

/**
 * Proposes the redirects of a CSV file. One from the same address with the same `when` as a redirect of the
 * site file changes that one; status codes are taken for kinds. Addresses are taken literally unless they are
 * clearly patterns; of two rows that lead from one address to different ones, neither is taken.
 *
 * @param site the site file as plain values
 * @throws CsvProblem
 */
export function proposeRedirectsFromCsv(site: SiteValue, text: string): RedirectsProposal {
  const { rows, unread } = readTable(text, COLUMNS, 'from');
  const ignoreCase = !isCaseKept(site);
  const there = new Map(
    (Array.isArray(site['redirects']) ? (site['redirects'] as unknown[]) : [])
      .filter(isRecord)
      .map((redirect) => [keyOf(redirect, ignoreCase), redirect]),
  );
  const isTidied = tidiedOn(site);
  const refused: RejectedRow[] = [];
  const byKey = new Map<string, Taken[]>();
  for (const row of rows) {
    const { line, problem } = row;
    if (problem !== null) {
      refused.push({ what: row.values.from ?? '', line, problem: { code: 'csv', problem } });
      continue;
    }
    const value = redirectFrom(row);
    const key = keyOf(value, ignoreCase);
    if (isTidied(value))
      refused.push({ what: row.values.from ?? '', line, problem: { code: 'tidied' } });
    else byKey.set(key, [...(byKey.get(key) ?? []), { value, line, from: row.values.from ?? '' }]);
  }
  const entries = [...byKey.values()].flatMap((same) => chosen(same, refused));
  const sorted = partitionValid(site, 'redirects', entries, refused);
  const values = sorted.additions.map((addition) => ({
    addition,
    was: there.get(keyOf(addition.value as Readonly<Record<string, unknown>>, ignoreCase)),
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
    patterns: sorted.additions.map(({ name }) => name).filter(hasPieces),
  };
}

interface Taken {
  readonly value: Readonly<Record<string, unknown>>;
  readonly line: number;
  readonly from: string;
}

/** Chooses one of several rows for the same address; none where their targets differ. */
function chosen(same: readonly Taken[], refused: RejectedRow[]): LineEntry[] {
  const [first, ...others] = same as [Taken, ...Taken[]];
  const differing = others.filter(({ value }) => value['to'] !== first.value['to']);
  const problemAt = (line: number): RowProblem | null => {
    if (differing.length === 0)
      return line === first.line ? null : { code: 'row-twice', line: first.line };
    const lines = same.filter((one) => one.line !== line).map((one) => one.line);
    return { code: 'conflicting-rows', lines };
  };
  return same.flatMap(({ value, line, from }) => {
    const problem = problemAt(line);
    if (problem !== null) refused.push({ what: from, line, problem });
    return problem === null ? [{ name: textOf(value['from']), value, line }] : [];
  });
}

/** Tells redirects between two spellings of one address. */
function tidiedOn(site: SiteValue): (redirect: Readonly<Record<string, unknown>>) => boolean {
  const tidy = tidyOf(site);
  const address = isRecord(site['site']) ? textOf(site['site']['address']) : '';
  const url = URL.canParse(address) ? new URL(address) : new URL('https://site.invalid');
  const home = { protocol: url.protocol as 'http:' | 'https:', host: url.host };
  const formOf = (text: string): string | null => {
    const read = hasPieces(text) ? null : readAddress(text, home, tidy);
    if (!read?.ok) return null;
    const { protocol, host, path, query } = read.address;
    return `${protocol}//${host}${path}?${query}`;
  };
  return ({ from, to }) => {
    const form = formOf(textOf(from));
    return form !== null && textOf(from) !== textOf(to) && form === formOf(textOf(to));
  };
}

const textOf = (value: unknown): string => (typeof value === 'string' ? value : '');

/** What two redirects have in common of which only one can apply: the address, however it is spelled, and for whom. */
function keyOf(redirect: Readonly<Record<string, unknown>>, ignoreCase: boolean): string {
  const [, path = '', query = ''] = /^([^?]*)(.*)$/s.exec(textOf(redirect['from']))!;
  const spelled = path.length > 1 ? path.replace(/\/$/, '') : path;
  const cased = ignoreCase ? spelled.toLowerCase() : spelled;
  return JSON.stringify([cased + query, redirect['when'] ?? null]);
}

function isCaseKept({ site }: SiteValue): boolean {
  const tidy = isRecord(site) ? site['tidy'] : null;
  return isRecord(tidy) && tidy['case'] === 'keep';
}
