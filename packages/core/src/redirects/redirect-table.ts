import { phaseAt, type Phase } from '../time/period.ts';
import { printCondition } from '../condition/print.ts';
import type { PreparedSite } from '../decision/prepared-site.ts';
import { exampleOfRedirect } from '../pattern/example.ts';
import type { Redirect } from '../model/site.ts';
import { printDay } from '../time/instant.ts';
import type { Finding } from '../model/finding.ts';

/** A redirect as a row of a table. */
export interface RedirectRow {
  /** Its place among the redirects of the site file; null for one that stands in a list. */
  readonly position: number | null;
  /** The list beside the site file that it stands in; null for one of the site file itself. */
  readonly list: string | null;
  readonly line: number;
  readonly from: string;
  readonly to: string;
  readonly kind: 'permanent' | 'temporary';
  readonly when: string | null;
  /** Days in the time zone of the site. */
  readonly since: string | null;
  readonly until: string | null;
  readonly note: string | null;
  readonly rank: number;
  readonly status: RedirectStatus;
  /** The codes of the findings about it. */
  readonly findings: readonly string[];
  /** An address that it is for. */
  readonly example: string;
}

/** Whether a redirect applies now, from a later moment, or no longer. */
export const REDIRECT_STATUSES = ['active', 'scheduled', 'expired'] as const;
export type RedirectStatus = (typeof REDIRECT_STATUSES)[number];

export const REDIRECT_ORDERS = ['file', 'from', 'to', 'kind', 'until', 'findings'] as const;
export type RedirectOrder = (typeof REDIRECT_ORDERS)[number];

/** What of the redirects is wanted, and in which order. */
export interface RedirectFilter {
  /** In the address, the target or the note; letter case does not count. */
  readonly search?: string | undefined;
  readonly kind?: string | undefined;
  readonly status?: string | undefined;
  /** The code of a finding; `any` for those with one, `none` for those without. */
  readonly finding?: string | undefined;
  readonly list?: string | undefined;
  readonly order?: RedirectOrder | undefined;
  readonly descending?: boolean | undefined;
  readonly skip?: number | undefined;
  readonly limit?: number | undefined;
}

export interface RedirectTable {
  /** How many there are in all, and how many the filter lets through. */
  readonly all: number;
  readonly found: number;
  /** Each finding about a redirect, with how many have it. */
  readonly findings: Readonly<Record<string, number>>;
  readonly rows: readonly RedirectRow[];
}

interface Judged {
  readonly redirect: Redirect;
  readonly position: number;
  readonly status: RedirectStatus;
  readonly findings: readonly string[];
}

/**
 * The redirects of a site as a table: searched, filtered and sorted; only the rows that are wanted are made.
 *
 * @param findings what was found in the site
 * @param at the moment for which `status` is told, in milliseconds since 1970
 */
export function redirectTable(
  { site }: PreparedSite,
  findings: readonly Finding[],
  at: number,
  filter: RedirectFilter = {},
): RedirectTable {
  const codes = codesByPlace(findings);
  const counts: Record<string, number> = {};
  for (const list of codes.values())
    for (const code of list) counts[code] = (counts[code] ?? 0) + 1;
  const judged = site.redirects.map((redirect, position): Judged => ({
    redirect,
    position,
    status: STATUS_IN[phaseAt(redirect.validFrom, redirect.validUntil, at)],
    findings: codes.get(placeKey(redirect.place)) ?? [],
  }));
  const found = judged.filter((one) => isWanted(one, filter));
  const compare = ORDERS[filter.order ?? 'file'];
  const sign = filter.descending ? -1 : 1;
  found.sort((a, b) => sign * compare(a, b) || a.position - b.position);
  const { skip = 0, limit = 100 } = filter;
  return {
    all: judged.length,
    found: found.length,
    findings: counts,
    rows: found.slice(skip, skip + limit).map((one) => rowOf(one, site.timeZone)),
  };
}

const placeKey = ({ file, line }: { file?: string; line: number }): string =>
  `${file ?? ''}\n${line}`;

function codesByPlace(findings: readonly Finding[]): Map<string, string[]> {
  const codes = new Map<string, string[]>();
  for (const { subject, code, file, line } of findings) {
    if (subject.kind !== 'redirect' && subject.kind !== 'redirects') continue;
    // The finding of a rule of the site file has the file's own name.
    const key = placeKey(/\.csv$/i.test(file) ? { file, line } : { line });
    const known = codes.get(key);
    if (known) known.push(code);
    else codes.set(key, [code]);
  }
  return codes;
}

const STATUS_IN: Readonly<Record<Phase, RedirectStatus>> = {
  before: 'scheduled',
  during: 'active',
  after: 'expired',
};

function isWanted({ redirect, status, findings }: Judged, filter: RedirectFilter): boolean {
  const { search, kind, finding, list } = filter;
  if (kind !== undefined && redirect.kind !== kind) return false;
  if (filter.status !== undefined && status !== filter.status) return false;
  if (list !== undefined && (redirect.place.file ?? '') !== list) return false;
  if (finding === 'none' && findings.length > 0) return false;
  if (finding === 'any' && findings.length === 0) return false;
  if (
    finding !== undefined &&
    finding !== 'any' &&
    finding !== 'none' &&
    !findings.includes(finding)
  )
    return false;
  if (search === undefined || search === '') return true;
  const wanted = search.toLowerCase();
  return [redirect.source, redirect.to.text, redirect.note ?? ''].some((text) =>
    text.toLowerCase().includes(wanted),
  );
}

const byText =
  (text: (one: Redirect) => string) =>
  (a: Judged, b: Judged): number => {
    const [x, y] = [text(a.redirect), text(b.redirect)];
    return x < y ? -1 : x > y ? 1 : 0;
  };

const ORDERS: Readonly<Record<RedirectOrder, (a: Judged, b: Judged) => number>> = {
  file: (a, b) => a.position - b.position,
  from: byText(({ source: name }) => name),
  to: byText(({ to }) => to.text),
  kind: byText(({ kind }) => kind),
  until: (a, b) => (a.redirect.validUntil ?? Infinity) - (b.redirect.validUntil ?? Infinity) || 0,
  findings: (a, b) => b.findings.length - a.findings.length,
};

function rowOf({ redirect, position, status, findings }: Judged, timeZone: string): RedirectRow {
  const {
    place,
    source: name,
    to,
    kind,
    when,
    validFrom: from,
    validUntil: until,
    note,
    rank,
  } = redirect;
  return {
    position: place.file === undefined ? position : null,
    list: place.file ?? null,
    line: place.line,
    from: name,
    to: to.text,
    kind,
    when: when === null ? null : printCondition(when),
    since: from === null ? null : printDay(from, timeZone),
    until: until === null ? null : printDay(until, timeZone),
    note,
    rank,
    status,
    findings,
    example: exampleOfRedirect(redirect),
  };
}
