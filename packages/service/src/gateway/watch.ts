import type { Logger } from 'pino';
import { decisions } from '@kleidon/core';
import type { GatewayOutcome, RecordStore, SeenMiss, SeenUse } from '../store/records.ts';

/** Notes what visitors ask for, off the way of their requests: what is not there, and which redirects are in use. */
export interface Watch {
  ended(how: GatewayOutcome): void;
  /** Records a request for an address without a page. */
  missed(address: string, referrer: string | undefined, client: string): void;
  decided(site: decisions.PreparedSite, decision: decisions.Decision, client: string): void;
  /** Writes down what was noted, and stops. */
  close(): void;
}

export interface WatchOptions {
  readonly site: string;
  readonly records: RecordStore;
  readonly retentionDays: number;
  /** Protocol and host of the site, where a referrer is one of its own pages. */
  readonly home: () => string;
  readonly now: () => number;
  readonly log: Logger;
}

/** Every so many milliseconds what was noted is written down. */
const EVERY = 2000;
const FORGET_EVERY = 3_600_000;
/** What comes in between two writings beyond this is not noted. */
const MOST_NOTED = 5000;
/** The maximum number of notes per client: new addresses and referrers in an hour, redirects in use between two writings. */
const MOST_BY_CLIENT = 500;
const MOST_CLIENTS = 10_000;
const LONGEST = 500;
const MINUTE = 60_000;
const DAY = 86_400_000;

/** Begins to watch at a gateway. */
export function watchAt({ site, records, retentionDays, home, now, log }: WatchOptions): Watch {
  let misses = new Map<string, SeenMiss>();
  let uses = new Map<string, SeenUse>();
  let traffic = new Map<string, number>();
  let forgotten = 0;
  const mayMiss = quota(now, FORGET_EVERY);
  const mayUse = quota(now, EVERY);

  const write = (): void => {
    if (misses.size + uses.size + traffic.size === 0) return;
    const seen = { misses, uses, traffic };
    misses = new Map();
    uses = new Map();
    traffic = new Map();
    try {
      records.add(site, seen);
      if (now() - forgotten > FORGET_EVERY) {
        forgotten = now();
        records.forget(site, now(), retentionDays * DAY);
      }
    } catch (error) {
      // What visitors asked for is not worth failing a request for.
      log.warn({ err: error }, 'what visitors asked for could not be written down');
    }
  };
  const timer = setInterval(write, EVERY);
  timer.unref();

  return {
    ended: (how) => {
      const key = `${Math.floor(now() / MINUTE)} ${how}`;
      traffic.set(key, (traffic.get(key) ?? 0) + 1);
    },
    missed: (address, referrer, client) => {
      const path = withoutPeople(address);
      const from = referrer === undefined ? null : referrerOf(referrer, home());
      const known = misses.get(path);
      if (known) {
        known.count++;
        known.last = now();
        if (from !== null && from !== known.referrer && mayMiss(client)) known.referrer = from;
      } else if (misses.size < MOST_NOTED && mayMiss(client))
        misses.set(path, { count: 1, first: now(), last: now(), referrer: from });
    },
    decided: (prepared, decision, client) => {
      const redirect =
        decision.location === null ? null : decisions.appliedRedirect(prepared, decision);
      if (!redirect) return;
      const key = decisions.redirectKey(redirect);
      const known = uses.get(key);
      if (known) {
        known.count++;
        known.last = now();
      } else if (uses.size < MOST_NOTED && mayUse(client)) uses.set(key, { count: 1, last: now() });
    },
    close: () => {
      clearInterval(timer);
      write();
    },
  };
}

/** Whether a client may add another note, so that one client does not fill a list. The counts are reset after `every` milliseconds. */
function quota(now: () => number, every: number): (client: string) => boolean {
  let added = new Map<string, number>();
  let since = 0;
  return (client) => {
    if (now() - since > every) {
      added = new Map();
      since = now();
    }
    const count = added.get(client) ?? 0;
    if (count >= MOST_BY_CLIENT || (count === 0 && added.size >= MOST_CLIENTS)) return false;
    added.set(client, count + 1);
    return true;
  };
}

/** A path without what may be about someone: no query, no e-mail address. */
function withoutPeople(address: string): string {
  const path = address.replace(/^https?:\/\/[^/]*/i, '').replace(/[?#].*$/s, '');
  return path
    .slice(0, LONGEST)
    .split('/')
    .map((step) => (/@|%40/i.test(step) ? '…' : step))
    .join('/');
}

/** The page of the site that a request came from, or only which other site it was. */
function referrerOf(referrer: string, home: string): string | null {
  if (!URL.canParse(referrer)) return null;
  const { origin, pathname } = new URL(referrer);
  if (origin === 'null') return null;
  return origin === home ? withoutPeople(pathname) : origin.slice(0, LONGEST);
}
