import { readTable, writeTable } from '../formats/csv.ts';
import type { RowProblem } from '../model/row-problem.ts';
import { printInstant, readInstant } from '../time/instant.ts';
import type { LedgerPurchase } from './ledger.ts';
import { readEmail, readVisitorId, type ReadName } from './names.ts';

/** How a shop says that a purchase stands; whether its time is over, its dates say. */
export const LISTED_STATES = ['active', 'not-renewed', 'paused', 'refunded'] as const;
export type ListedState = (typeof LISTED_STATES)[number];

/** A purchase as it stands in a list of a shop. Times in milliseconds since 1970, null where open. */
export interface ListedPurchase {
  readonly purchase: string;
  readonly product: string;
  readonly email: string | null;
  readonly visitor: string | null;
  readonly from: number | null;
  readonly until: number | null;
  readonly state: ListedState;
}

/** A row that can't be used. */
export interface RefusedPurchase {
  readonly line: number;
  readonly purchase: string | null;
  readonly problem: RowProblem;
}

const COLUMNS = {
  purchase: ['order', 'order id', 'subscription'],
  product: ['item', 'sku'],
  email: ['e-mail', 'mail', 'buyer'],
  visitor: ['user', 'user id', 'id'],
  from: ['start', 'bought', 'date'],
  until: ['end', 'ends', 'expires'],
  state: ['status'],
} as const;
type Column = keyof typeof COLUMNS;

/**
 * Reads the purchases of a shop from CSV (RFC 4180): one in each row.
 * @param zone where dates without a time begin
 * @throws CsvSyntaxError
 */
export function readPurchases(
  text: string,
  zone: string,
): { rows: (ListedPurchase & { line: number })[]; refused: RefusedPurchase[]; unread: string[] } {
  const { rows, unread } = readTable<Column>(text, COLUMNS, 'purchase');
  const read = new Map<string, ListedPurchase & { line: number }>();
  const refused: RefusedPurchase[] = [];
  for (const { line, values, problem } of rows) {
    const { purchase = '', product = '', email, visitor, state = 'active' } = values;
    const refuse = (why: RowProblem): void =>
      void refused.push({ line, purchase: purchase || null, problem: why });
    const moments = (['from', 'until'] as const).map((column) => {
      const cell = values[column];
      return cell === undefined ? null : { column, cell, at: readInstant(cell, zone) };
    });
    const wrong = moments.find((one) => one !== null && one.at === null);
    const before = read.get(purchase);
    const names = { email: email && readEmail(email), visitor: visitor && readVisitorId(visitor) };
    const wrongName = (['email', 'visitor'] as const).find((one) => names[one] && !names[one].ok);
    if (problem) refuse({ code: 'csv', problem });
    else if (purchase === '') refuse({ code: 'cell-missing', column: 'purchase' });
    else if (product === '') refuse({ code: 'cell-missing', column: 'product' });
    else if (email === undefined && visitor === undefined)
      refuse({ code: 'cell-missing', column: 'email or visitor' });
    else if (wrongName)
      refuse({ code: 'no-buyer-name', column: wrongName, cell: values[wrongName]! });
    else if (wrong) refuse({ code: 'no-moment', column: wrong.column, cell: wrong.cell });
    else if (!isState(state)) refuse({ code: 'not-one-of', cell: state, values: LISTED_STATES });
    else if (before) refuse({ code: 'row-twice', line: before.line });
    else
      read.set(purchase, {
        line,
        purchase,
        product,
        email: nameIn(names.email),
        visitor: nameIn(names.visitor),
        from: moments[0]?.at ?? null,
        until: moments[1]?.at ?? null,
        state,
      });
  }
  return { rows: [...read.values()], refused, unread: [...unread] };
}

const nameIn = (read: ReadName | '' | undefined): string | null =>
  read && read.ok ? read.name : null;

const isState = (text: string): text is ListedState =>
  (LISTED_STATES as readonly string[]).includes(text);

/** A purchase as a list of a shop would have it. */
export const asListed = (purchase: LedgerPurchase): ListedPurchase => ({
  purchase: purchase.id,
  product: purchase.product,
  email: purchase.email,
  visitor: purchase.visitor,
  from: purchase.from,
  until: purchase.until,
  state: purchase.refunded
    ? 'refunded'
    : purchase.paused
      ? 'paused'
      : purchase.isCancelled
        ? 'not-renewed'
        : 'active',
});

/** Purchases as CSV, with the shop of each. */
export const writePurchases = (rows: readonly (ListedPurchase & { shop: string })[]): string =>
  writeTable(
    rows.map((row) => ({ ...row, from: instant(row.from), until: instant(row.until) })),
    ['shop', ...(Object.keys(COLUMNS) as Column[])],
  );

const instant = (at: number | null): string => (at === null ? '' : printInstant(at));

/** A purchase that stands otherwise in the two lists: which fields, and what each says. */
export interface DifferingPurchase {
  readonly purchase: string;
  readonly fields: readonly {
    readonly field: Exclude<keyof ListedPurchase, 'purchase'>;
    readonly listed: string;
    readonly here: string;
  }[];
}

/**
 * In which fields a purchase stands otherwise here than in the list of its shop. What the list leaves open is
 * not compared, but for its end: without one, it goes on without end.
 */
export function differenceOf(
  listed: ListedPurchase,
  here: ListedPurchase,
): DifferingPurchase | null {
  const fields = (['product', 'email', 'visitor', 'from', 'until', 'state'] as const).flatMap(
    (field) => {
      const [there, own] = [listed[field], here[field]];
      if (there === own || (there === null && field !== 'until')) return [];
      return [{ field, listed: inText(there), here: inText(own) }];
    },
  );
  return fields.length === 0 ? null : { purchase: listed.purchase, fields };
}

const inText = (value: string | number | null): string =>
  typeof value === 'number' ? printInstant(value) : (value ?? '');
