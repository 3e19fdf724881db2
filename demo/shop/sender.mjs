/** Tells Kleidon what happened, signed (Standard Webhooks 1.0), and again until it has taken it. */
import { randomUUID } from 'node:crypto';
import { readFileSync, writeFileSync } from 'node:fs';
import { Webhook } from 'standardwebhooks';

const FIRST_PAUSE = 250;
const LONGEST_PAUSE = 15_000;

/**
 * Events on their way, which are kept in a file: none is lost where either end is stopped.
 *
 * @param to the address to which they are sent
 * @param secret whsec_…, as in the settings of Kleidon
 */
export function senderTo(to, secret, file) {
  const webhook = new Webhook(secret);
  const events = read(file);
  const keep = () => writeFileSync(file, JSON.stringify(events));

  const send = async (event) => {
    const at = new Date();
    event.attempts++;
    try {
      const response = await fetch(to, {
        method: 'POST',
        headers: {
          'Content-Type': 'application/json',
          'webhook-id': event.id,
          'webhook-timestamp': String(Math.floor(at.getTime() / 1000)),
          'webhook-signature': webhook.sign(event.id, at, event.body),
        },
        body: event.body,
        signal: AbortSignal.timeout(5000),
      });
      event.answer = `${response.status} ${(await response.text()).slice(0, 500)}`;
      // What is wrong in itself stays wrong; everything else is tried again.
      if (response.ok) event.state = 'delivered';
      else if (response.status === 400) event.state = 'refused';
    } catch (error) {
      event.answer = String(error.cause?.message ?? error.message);
    }
    keep();
    if (event.state === 'pending')
      setTimeout(
        () => void send(event),
        Math.min(FIRST_PAUSE * 2 ** event.attempts, LONGEST_PAUSE),
      ).unref();
  };

  for (const event of events) if (event.state === 'pending') void send(event);
  return {
    events: () => events,
    tell(told) {
      const body = JSON.stringify(told);
      const event = { id: `msg_${randomUUID()}`, body, state: 'pending', attempts: 0, answer: '' };
      events.unshift(event);
      keep();
      void send(event);
    },
  };
}

function read(file) {
  try {
    return JSON.parse(readFileSync(file, 'utf8'));
  } catch (error) {
    if (error.code === 'ENOENT') return [];
    throw error;
  }
}
