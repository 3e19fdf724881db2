import { randomBytes, timingSafeEqual } from 'node:crypto';
import type { IncomingMessage } from 'node:http';

/** By which the gateways of a service know the requests of its own probes. */
export interface ProbeMark {
  /** What a probe sends along. */
  readonly fields: Readonly<Record<string, string>>;
  isIn(request: IncomingMessage): boolean;
}

/** Gateways pass no field on whose name begins like this. */
const FIELD = 'kleidon-probe';

/** A mark that nobody knows but this process, and that lasts as long as it. */
export function probeMark(): ProbeMark {
  const secret = randomBytes(24).toString('base64url');
  const wanted = Buffer.from(secret);
  return {
    fields: { [FIELD]: secret },
    isIn: ({ headers }) => {
      const given = headers[FIELD];
      if (typeof given !== 'string') return false;
      const bytes = Buffer.from(given);
      return bytes.length === wanted.length && timingSafeEqual(bytes, wanted);
    },
  };
}
