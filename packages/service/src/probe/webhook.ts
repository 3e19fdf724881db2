import { Webhook } from 'standardwebhooks';
import type { WebhookSettings } from '../settings/probes.ts';
import type { WebhookMessage } from '../store/probes.ts';

/** What an attempt to deliver a message came to. */
export interface Delivery {
  readonly isDelivered: boolean;
  readonly answer: string;
  /** When it is tried again; null where it is not. */
  readonly nextAt: Date | null;
}

const SECOND = 1000;
const MINUTE = 60 * SECOND;
const HOUR = 60 * MINUTE;
/** How long after one attempt the next is made, as Standard Webhooks proposes. */
const RETRY_AFTER = [
  ...[5 * SECOND, 5 * MINUTE, 30 * MINUTE, 2 * HOUR, 5 * HOUR, 10 * HOUR, 14 * HOUR],
  ...[20 * HOUR, 24 * HOUR],
];
const TIMEOUT = 15 * SECOND;
const LONGEST_WAIT = 24 * HOUR;

/**
 * Delivers a message as Standard Webhooks 1.0 has it: signed with each secret, answered with 2xx, and tried
 * again otherwise, but where the receiver says that it is gone for ever (410).
 */
export async function deliver(
  { id, body, attempts }: WebhookMessage,
  { address, secrets }: WebhookSettings,
  now: Date,
): Promise<Delivery> {
  const signatures = secrets.map((secret) => new Webhook(secret).sign(id, now, body));
  let status = 0;
  let answer: string;
  let wanted = 0;
  try {
    const response = await fetch(address, {
      method: 'POST',
      redirect: 'manual',
      headers: {
        'Content-Type': 'application/json',
        'User-Agent': 'kleidon/0.1 webhook',
        'webhook-id': id,
        'webhook-timestamp': String(Math.floor(now.getTime() / SECOND)),
        'webhook-signature': signatures.join(' '),
      },
      body,
      signal: AbortSignal.timeout(TIMEOUT),
    });
    await response.body?.cancel();
    ({ status } = response);
    answer = String(status);
    wanted = Number(response.headers.get('Retry-After') ?? 0) * SECOND || 0;
  } catch (error) {
    const { message } = ((error as Error).cause ?? error) as Error;
    answer = `no answer (${message || 'none'})`;
  }
  const isDelivered = status >= 200 && status < 300;
  const usual = RETRY_AFTER[attempts];
  const isOver = isDelivered || status === 410 || usual === undefined;
  const after = Math.min(Math.max(usual ?? 0, wanted), LONGEST_WAIT);
  return { isDelivered, answer, nextAt: isOver ? null : new Date(now.getTime() + after) };
}
