import { randomUUID } from 'node:crypto';
import { Webhook } from 'standardwebhooks';
import { call } from './described.ts';

/** A secret of Standard Webhooks that everyone knows. */
export const secretOf = (fill: number): string =>
  `whsec_${Buffer.alloc(32, fill).toString('base64')}`;
export const secret = secretOf(1);

/** What a shop tells. */
export interface Told {
  readonly type: string;
  readonly timestamp?: string;
  readonly data: Record<string, unknown>;
}
/** How it is sent. */
export interface Sending {
  readonly id?: string;
  readonly by?: string;
  readonly at?: Date;
  readonly headers?: Record<string, string>;
  /** Sent in place of what was signed. */
  readonly body?: string;
  readonly shop?: string;
}

/** Tells a service what happened in a shop, as the shop would. */
export async function tell(
  address: string,
  told: Told | string,
  {
    id = `msg_${randomUUID()}`,
    by = secret,
    at = new Date(),
    headers,
    body,
    shop = 'hut',
  }: Sending = {},
): Promise<Response> {
  const signed =
    typeof told === 'string'
      ? told
      : JSON.stringify({ timestamp: new Date().toISOString(), ...told });
  return call(address, `/api/shops/${shop}/events`, {
    method: 'POST',
    headers: {
      'Content-Type': 'application/json',
      'webhook-id': id,
      'webhook-timestamp': String(Math.floor(at.getTime() / 1000)),
      'webhook-signature': new Webhook(by).sign(id, at, signed),
      ...headers,
    },
    body: body ?? signed,
  });
}
