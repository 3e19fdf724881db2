import { clientKey, UNKNOWN } from './client.ts';
import type { Limits } from '../../settings/limits.ts';

/** A gateway has too much to do: 503. */
export class TooBusy extends Error {
  constructor() {
    super('The gateway has too many requests at the moment.');
  }
}

/** One request that has its turn. */
export interface Turn {
  /**
   * The request goes on as an event stream, which may last: it counts among those from now on.
   * @returns whether there is room for it
   */
  becomeStream(): boolean;
  end(): void;
}

/** Gives requests their turns: first come, first served, but no client more than its share. */
export interface Turns {
  /** A turn that comes at once; null where one has to be waited for. */
  tryTake(address: string): Turn | null;
  /**
   * Waits for a turn.
   * @param address the IP address of the client
   * @param onLeave is given what takes the request out of the queue when its client has gone
   * @throws TooBusy where the turn does not come in time
   */
  take(address: string, onLeave: (leave: () => void) => void): Promise<Turn>;
  /** Whether someone waits: then whoever holds others up is let go of sooner. */
  readonly isContended: boolean;
}

/** As many may wait as have their turn, so many times over. */
const QUEUE = 8;

/** Counts what has its turn, all together and by client. */
class Share {
  private all = 0;
  private readonly byClient = new Map<string, number>();
  constructor(
    private readonly limit: number,
    private readonly perClient: number,
  ) {}

  hasRoom(client: string): boolean {
    const own = this.byClient.get(client) ?? 0;
    // A trusted proxy may name none of its clients. Those whom it names keep half of the turns.
    const share = client === UNKNOWN ? Math.max(this.perClient, this.limit / 2) : this.perClient;
    return this.all < this.limit && own < share;
  }

  isFull(): boolean {
    return this.all >= this.limit;
  }

  add(client: string): void {
    this.all++;
    this.byClient.set(client, (this.byClient.get(client) ?? 0) + 1);
  }

  remove(client: string): void {
    this.all--;
    const left = this.byClient.get(client)! - 1;
    if (left === 0) this.byClient.delete(client);
    else this.byClient.set(client, left);
  }
}

export function turnsWithin(limits: Limits): Turns {
  const requests = new Share(limits.connections, limits.connectionsPerClient);
  const streams = new Share(limits.streams, limits.streamsPerClient);
  const queues = new Map<string, (() => void)[]>();
  let waiting = 0;

  /** Lets whoever is next begin: one of each client by turns, so that a long queue of one holds up nobody else. */
  const next = (): void => {
    if (waiting === 0 || requests.isFull()) return;
    for (const [client, queue] of queues) {
      if (!requests.hasRoom(client)) continue;
      queues.delete(client);
      const begin = queue.shift()!;
      if (queue.length > 0) queues.set(client, queue);
      begin();
      return;
    }
  };
  const turnFor = (client: string): Turn => {
    let share: Share | null = requests;
    return {
      becomeStream: () => {
        if (share !== requests || !streams.hasRoom(client)) return false;
        streams.add(client);
        requests.remove(client);
        share = streams;
        next();
        return true;
      },
      end: () => {
        share?.remove(client);
        if (share === requests) next();
        share = null;
      },
    };
  };

  const tryTake = (address: string): Turn | null => {
    const client = clientKey(address);
    if (!requests.hasRoom(client)) return null;
    requests.add(client);
    return turnFor(client);
  };

  return {
    get isContended() {
      return waiting > 0;
    },
    tryTake,
    take: (address, onLeave) => {
      const turn = tryTake(address);
      if (turn) return Promise.resolve(turn);
      const client = clientKey(address);
      const own = queues.get(client)?.length ?? 0;
      if (own >= limits.connectionsPerClient * QUEUE || waiting >= limits.connections * QUEUE)
        return Promise.reject(new TooBusy());
      return new Promise<Turn>((resolve, reject) => {
        const leave = (): void => {
          const queue = queues.get(client);
          const at = queue?.indexOf(begin) ?? -1;
          if (at === -1) return;
          clearTimeout(timer);
          queue!.splice(at, 1);
          if (queue!.length === 0) queues.delete(client);
          waiting--;
          reject(new TooBusy());
        };
        const begin = (): void => {
          clearTimeout(timer);
          waiting--;
          requests.add(client);
          resolve(turnFor(client));
        };
        const timer = setTimeout(leave, limits.queueTimeout);
        const queue = queues.get(client);
        if (queue) queue.push(begin);
        else queues.set(client, [begin]);
        waiting++;
        onLeave(leave);
      });
    },
  };
}
