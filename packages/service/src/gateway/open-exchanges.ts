import type { Logger } from 'pino';

/** Something that goes on after it was let through: a download, an event stream, a WebSocket. */
export interface OpenExchange {
  /** Whether the rules and the session would still let it through. */
  isAllowed(): Promise<boolean>;
  /** Ends it. */
  close(): void;
  /** It may last for as long as it likes: whoever stops the gateway need not wait for it. */
  isStream: boolean;
}

/** What goes on at a gateway, looked at every second: what is no longer allowed ends. */
export interface OpenExchanges {
  /** @returns what is called when it has ended by itself */
  add(exchange: OpenExchange): () => void;
  /** Ends what may last for ever, and looks at nothing any more. */
  close(): void;
}

const EVERY = 1000;

/** An exchange and its place among those that are open. */
interface Entry {
  readonly exchange: OpenExchange;
  place: number;
  /** It was open at the previous check. Ordinary requests end sooner, so a release never cuts them. */
  isLasting: boolean;
}

export function openExchanges(log: Logger): OpenExchanges {
  /**
   * In no order. Not a `Set`: one that takes in and lets go of thousands a second replaces its table
   * again and again, and each table points to the next. Once one has grown old, the collection of
   * young objects keeps all that follow it, with what they hold, which cost half as much again as a
   * request.
   */
  const all: Entry[] = [];
  /** @returns whether it was still open */
  const remove = (entry: Entry): boolean => {
    if (all[entry.place] !== entry) return false;
    const last = all.pop()!;
    if (last !== entry) {
      last.place = entry.place;
      all[entry.place] = last;
    }
    return true;
  };
  let looking: Promise<void> = Promise.resolve();
  let isLooking = false;
  const lookAt = async (entry: Entry): Promise<void> => {
    const { exchange } = entry;
    // What can't be asked is not allowed.
    const isAllowed = await exchange.isAllowed().catch((error: unknown) => {
      log.warn({ err: error }, 'an open connection could not be judged again');
      return false;
    });
    if (isAllowed || !remove(entry)) return;
    exchange.close();
  };
  const timer = setInterval(() => {
    if (isLooking || all.length === 0) return;
    isLooking = true;
    const lasting = all.filter(({ isLasting }) => isLasting);
    for (const entry of all) entry.isLasting = true;
    looking = Promise.all(lasting.map(lookAt)).then(() => {
      isLooking = false;
    });
    void looking;
  }, EVERY);
  timer.unref();
  return {
    add: (exchange) => {
      const entry = { exchange, place: all.length, isLasting: false };
      all.push(entry);
      return () => void remove(entry);
    },
    close: () => {
      clearInterval(timer);
      for (const { exchange } of [...all]) if (exchange.isStream) exchange.close();
    },
  };
}
