import { createHmac, timingSafeEqual } from 'node:crypto';
import { Webhook, WebhookVerificationError } from 'standardwebhooks';
import type { OwnSignature, ShopSettings } from '../settings/shops.ts';

/** A header of a request by its name. */
export type HeaderOf = (name: string) => string | undefined;

/** How far the clocks of a shop and of this service may be apart, in milliseconds. */
const TOLERANCE = 5 * 60_000;

/**
 * Whether a shop signed a body with one of its secrets, and not long ago: by Standard Webhooks 1.0, or by
 * HMAC-SHA256 (RFC 2104) in a header of its own. Signatures are compared in constant time.
 */
export function isSigned(
  { secrets, signature }: ShopSettings,
  body: Buffer,
  header: HeaderOf,
  now: number,
): boolean {
  return signature
    ? secrets.some((secret) => isOwn(signature, secret, body, header, now))
    : secrets.some((secret) => isStandard(secret, body, header));
}

function isStandard(secret: string, body: Buffer, header: HeaderOf): boolean {
  const headers = Object.fromEntries(
    ['webhook-id', 'webhook-timestamp', 'webhook-signature'].map((field) => [
      field,
      header(field) ?? '',
    ]),
  );
  try {
    new Webhook(secret).verify(body, headers, { jsonParse: false });
    return true;
  } catch (error) {
    if (error instanceof WebhookVerificationError) return false;
    throw error;
  }
}

function isOwn(
  { header: field, as, prefix, time }: OwnSignature,
  secret: string,
  body: Buffer,
  header: HeaderOf,
  now: number,
): boolean {
  const hmac = createHmac('sha256', secret);
  if (time !== null) {
    const said = header(time) ?? '';
    if (!/^\d{1,12}$/.test(said) || Math.abs(now - Number(said) * 1000) > TOLERANCE) return false;
    hmac.update(`${said}.`);
  }
  const wanted = hmac.update(body).digest();
  return (header(field) ?? '')
    .split(/[\s,]+/)
    .filter((one) => one.startsWith(prefix))
    .map((one) => Buffer.from(one.slice(prefix.length), as))
    .some((one) => one.length === wanted.length && timingSafeEqual(one, wanted));
}
