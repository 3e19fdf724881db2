import { createHmac, timingSafeEqual } from 'node:crypto';
import { Webhook } from 'standardwebhooks';
import type { OwnSignature, ShopSettings } from '../settings/shops.ts';

/** A header of a request by its name. */
export type HeaderOf = (name: string) => string | undefined;

/** How far the clocks of a shop and of this service may be apart, in milliseconds. */
const TOLERANCE = 5 * 60_000;

/** Why an event is refused: no signature came, no secret made it, or the clocks are too far apart. */
export type SignatureProblem = 'no-signature' | 'wrong-secret' | 'wrong-clock';

/**
 * Verifies that a shop signed a body with one of its secrets, and not long ago: by Standard Webhooks 1.0, or by
 * HMAC-SHA256 (RFC 2104) in a header of its own. Compares signatures in constant time.
 *
 * @returns null where the signature is right
 */
export function signatureProblem(
  { secrets, signature }: ShopSettings,
  body: Buffer,
  header: HeaderOf,
  now: number,
): SignatureProblem | null {
  const timeHeader = signature === null ? 'webhook-timestamp' : signature.time;
  const time = timeHeader === null ? null : (header(timeHeader) ?? '');
  const sent = header(signature?.header ?? 'webhook-signature') ?? '';
  if (sent === '' || time === '') return 'no-signature';
  const isRight = secrets.some((secret) =>
    signature === null
      ? isStandard(secret, body, header, Number(time), sent)
      : isOwn(signature, secret, body, time, sent),
  );
  if (!isRight) return 'wrong-secret';
  if (time === null) return null;
  const isNow = /^\d{1,12}$/.test(time) && Math.abs(now - Number(time) * 1000) <= TOLERANCE;
  return isNow ? null : 'wrong-clock';
}

function isStandard(
  secret: string,
  body: Buffer,
  header: HeaderOf,
  seconds: number,
  sent: string,
): boolean {
  const moment = new Date(seconds * 1000);
  if (Number.isNaN(moment.getTime())) return false;
  const wanted = new Webhook(secret).sign(header('webhook-id') ?? '', moment, body);
  return sent.split(' ').some((one) => isSame(Buffer.from(one), Buffer.from(wanted)));
}

function isOwn(
  { as, prefix }: OwnSignature,
  secret: string,
  body: Buffer,
  time: string | null,
  sent: string,
): boolean {
  const hmac = createHmac('sha256', secret);
  if (time !== null) hmac.update(`${time}.`);
  const wanted = hmac.update(body).digest();
  return sent
    .split(/[\s,]+/)
    .filter((one) => one.startsWith(prefix))
    .some((one) => isSame(Buffer.from(one.slice(prefix.length), as), wanted));
}

const isSame = (one: Buffer, other: Buffer): boolean =>
  one.length === other.length && timingSafeEqual(one, other);
