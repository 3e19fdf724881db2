import type { SiteValue } from '../edits/edit.ts';
import { isSame } from '../edits/change-value.ts';
import { readTable, type Row } from '../formats/csv.ts';
import { isRecord } from '../site/schema.ts';
import { sortOut, takeOnce } from './check-entries.ts';
import type { CsvProposal } from './pages-csv.ts';
import type { Change, NotTaken } from './proposal.ts';

const COLUMNS = {
  from: ['source', 'old', 'oldaddress', 'oldurl', 'request'],
  to: ['target', 'destination', 'new', 'newaddress', 'newurl'],
  kind: ['type', 'status', 'code'],
  query: [],
  when: ['condition', 'for'],
  since: ['begins', 'start'],
  until: ['ends', 'end', 'expires'],
  'unless-page': [],
  'keep-for': [],
  note: ['comment', 'reason', 'why'],
  rank: ['priority'],
} as const;
type Column = keyof typeof COLUMNS;

/** The columns in which redirects are written. */
export const REDIRECT_COLUMNS = Object.keys(COLUMNS) as readonly Column[];

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
    changes: values.flatMap(({ addition: { name, value }, was }) =>
      was === undefined || isSame(was, value) ? [] : [{ name, was, value }],
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

function redirectFrom({ values }: Row<Column>): Readonly<Record<string, unknown>> {
  const { kind, rank, ...rest } = values;
  return {
    ...rest,
    ...(kind === undefined ? {} : { kind: kindFrom(kind) }),
    ...(rank === undefined ? {} : { rank: Number.isInteger(Number(rank)) ? Number(rank) : rank }),
  };
}

/** 301 and 308 are permanent, 302, 303 and 307 are temporary (RFC 9110, 15.4). */
function kindFrom(text: string): string {
  if (['301', '308'].includes(text)) return 'permanent';
  return ['302', '303', '307'].includes(text) ? 'temporary' : text.toLowerCase();
}
