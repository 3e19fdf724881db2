import { once } from 'node:events';
import type { Response } from 'express';
import { purchases } from '@kleidon/core';
import type { StandingPurchase } from '../shops/all-purchases.ts';

/** Rows that are written at once. */
const CSV_PAGE = 1000;

/** Sends purchases as CSV, as they are read: all of them need not fit into memory. */
export async function sendPurchases(
  response: Response,
  site: string,
  all: AsyncIterable<StandingPurchase>,
  isAsked: (one: StandingPurchase) => boolean,
): Promise<void> {
  response.type('text/csv');
  response.setHeader('Content-Disposition', `attachment; filename="${site}-purchases.csv"`);
  let rows: (purchases.ListedPurchase & { shop: string })[] = [];
  let isFirst = true;
  const flush = async (): Promise<void> => {
    const csv = purchases.writePurchases(rows);
    const text = isFirst ? csv : csv.slice(csv.indexOf('\n') + 1);
    rows = [];
    isFirst = false;
    if (!response.write(text) && !response.destroyed)
      await Promise.race([once(response, 'drain'), once(response, 'close')]);
  };
  for await (const one of all) {
    if (response.destroyed) return;
    if (isAsked(one)) rows.push({ ...purchases.asListed(one), shop: one.shop });
    if (rows.length === CSV_PAGE) await flush();
  }
  await flush();
  response.end();
}
