import { request } from 'undici';

/** How a website does at the moment. */
export interface Health {
  readonly isUp: boolean;
  /** Its answer, or why there is none. */
  readonly says: string;
  /** Milliseconds until its answer began. */
  readonly took: number;
  readonly at: string;
}

/** The website is not asked more often, however many look. */
const KEPT = 5000;
const PATIENCE = 3000;

/** Asks a website for its home page's head, to see whether it answers; any answer but a failure of its own is one. */
export function healthOf(origin: string, host: () => string): () => Promise<Health> {
  let last: { at: number; health: Promise<Health> } | null = null;
  const look = async (): Promise<Health> => {
    const began = performance.now();
    const done = (isUp: boolean, says: string): Health => ({
      isUp,
      says,
      took: Math.round(performance.now() - began),
      at: new Date().toISOString(),
    });
    try {
      const { statusCode, body } = await request(origin, {
        method: 'HEAD',
        headers: { host: host() },
        signal: AbortSignal.timeout(PATIENCE),
      });
      await body.dump();
      return done(statusCode < 500, String(statusCode));
    } catch (error) {
      const { name, message, code } = error as NodeJS.ErrnoException;
      const isSlow = name === 'TimeoutError' || name === 'AbortError';
      return done(false, isSlow ? `no answer within ${PATIENCE / 1000} s` : (code ?? message));
    }
  };
  return () => {
    const now = Date.now();
    if (last === null || now - last.at > KEPT) last = { at: now, health: look() };
    return last.health;
  };
}
