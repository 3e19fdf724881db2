import type { model } from '@kleidon/core';
import type { ReceivedEvent } from './buyer-purchases.ts';

/** An event as it is read: columns in the order of `EVENT`, without their names, of which a million would be made. */
export type Row = readonly [
  shop: string,
  id: string,
  type: model.ShopEventType,
  at: number,
  purchase: string,
  product: string | null,
  from: number | null,
  until: number | null,
  isPartly: number,
  email: string | null,
  visitor: string | null,
  formerEmail: string | null,
  receivedAt: number,
  note: string | null,
];

const EVENT = [
  ...['shop', 'id', 'type', 'at', 'purchase', 'product', 'valid_from', 'valid_until', 'is_partly'],
  ...['email', 'visitor', 'former_email', 'received_at', 'note'],
];
/** The columns of an event, in a table of this name. */
export const columnsOf = (table: string): string =>
  EVENT.map((one) => `${table}.${one}`).join(', ');

/** The event in a row. */
export const eventIn = (row: Row): ReceivedEvent => ({
  shop: row[0],
  id: row[1],
  type: row[2],
  at: row[3],
  purchase: row[4],
  product: row[5],
  from: row[6],
  until: row[7],
  isPartly: row[8] === 1,
  email: row[9],
  visitor: row[10],
  formerEmail: row[11],
  receivedAt: row[12],
  note: row[13],
});
