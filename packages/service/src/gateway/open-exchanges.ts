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

export function openExchanges(log: Logger): OpenExchanges {
  const all = new Set<OpenExchange>();
  let looking: Promise<void> = Promise.resolve();
  let isLooking = false;
  const lookAt = async (exchange: OpenExchange): Promise<void> => {
    // What can't be asked is not allowed.
    const isAllowed = await exchange.isAllowed().catch((error: unknown) => {
      log.warn({ err: error }, 'an open connection could not be judged again');
      return false;
    });
    if (isAllowed || !all.delete(exchange)) return;
    exchange.close();
  };
  const timer = setInterval(() => {
    if (isLooking || all.size === 0) return;
    isLooking = true;
    looking = Promise.all([...all].map(lookAt)).then(() => {
      isLooking = false;
    });
    void looking;
  }, EVERY);
  timer.unref();
  return {
    add: (exchange) => {
      all.add(exchange);
      return () => void all.delete(exchange);
    },
    close: () => {
      clearInterval(timer);
      for (const exchange of all) if (exchange.isStream) exchange.close();
    },
  };
}
