import type { IncomingMessage } from 'node:http';

/** Lets go of clients that hold up others: uploads that hardly come, and readers that do not read. */
export interface Pace {
  /**
   * Watches an upload, until it is whole.
   * @param stop what is done where it is too slow
   */
  watchUpload(body: IncomingMessage, stop: () => void): void;
  /** Watches a reader that can take no more for now. */
  watchReader(stop: () => void): Reader;
  close(): void;
}

export interface Reader {
  isFull(): void;
  /** It can take more again. */
  isReady(): void;
  end(): void;
}

/** How long a client may bring or take less than it must, in milliseconds: usually, and while others wait. */
const PATIENCE = 10_000;
const PATIENCE_CONTENDED = 3_000;
const EVERY = 500;
/** What a response holds before it asks for a pause, in bytes: a reader that takes it is asked for more. */
const HELD = 16 * 1024;

interface Watched {
  readonly stop: () => void;
  /** Bytes that came since `since`, and whether the client is the one who is waited for. */
  readonly brought: () => number;
  readonly isAwaited: () => boolean;
  since: number;
}

/**
 * @param minimumRate bytes a second that a client must bring or take on average
 * @param isContended whether others wait
 */
export function paceFor(minimumRate: number, isContended: () => boolean): Pace {
  const all = new Set<Watched>();
  const look = (): void => {
    const now = performance.now();
    const patience = isContended() ? PATIENCE_CONTENDED : PATIENCE;
    for (const one of all) {
      if (!one.isAwaited()) {
        one.since = now;
        one.brought();
        continue;
      }
      if (now - one.since < patience) continue;
      const wanted = (minimumRate * (now - one.since)) / 1000;
      one.since = now;
      if (one.brought() >= wanted) continue;
      all.delete(one);
      one.stop();
    }
  };
  const timer = setInterval(look, EVERY);
  timer.unref();
  const watch = (watched: Omit<Watched, 'since'>): (() => void) => {
    const one = { ...watched, since: performance.now() };
    all.add(one);
    return () => all.delete(one);
  };
  return {
    watchUpload: (body, stop) => {
      const { socket } = body;
      let before = socket.bytesRead;
      const end = watch({
        stop,
        brought: () => {
          const brought = socket.bytesRead - before;
          before = socket.bytesRead;
          return brought;
        },
        // What came and was not taken yet is for the website to take.
        isAwaited: () => !body.complete && body.readableLength === 0,
      });
      body.once('end', end);
      body.once('close', end);
    },
    watchReader: (stop) => {
      let isFull = true;
      let taken = 0;
      const end = watch({
        stop,
        brought: () => {
          const brought = taken;
          taken = 0;
          return brought;
        },
        isAwaited: () => isFull,
      });
      return {
        isFull: () => void (isFull = true),
        isReady: () => {
          isFull = false;
          taken += HELD;
        },
        end: () => void end(),
      };
    },
    close: () => clearInterval(timer),
  };
}
