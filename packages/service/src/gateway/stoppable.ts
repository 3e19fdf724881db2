import type { IncomingMessage, Server, ServerResponse } from 'node:http';
import { Server as NetServer, type Socket } from 'node:net';

/** How long requests that are under way may take to finish when the service stops, in milliseconds. */
const GRACE = 10_000;
/** A connection without requests counts as idle after this time, in milliseconds. Until then a request may be in transit. */
const IDLE_AFTER = 1_000;
/** How often idle connections are looked for, in milliseconds. */
const LOOK_EVERY = 50;
/** Longer than any stall of the event loop, in milliseconds: an unread request must not look like silence. */
const KEPT_ALIVE = 20_000;

interface Connection {
  /** Requests without a complete answer. */
  open: number;
  /** The time of the last answer. */
  since: number;
}

/**
 * Tracks the connections of a server so that it can stop gracefully. While it stops, each answer closes its connection
 * (RFC 9112, 9.6). The server ends after the last answer.
 *
 * @returns stops the server
 */
export function stoppable(server: Server): () => Promise<void> {
  const connections = new Map<Socket, Connection>();
  const responses = new Set<ServerResponse>();
  let isStopping = false;
  server.keepAliveTimeout = KEPT_ALIVE;
  server.on('connection', (socket: Socket) => {
    connections.set(socket, { open: 0, since: Date.now() });
    socket.once('close', () => connections.delete(socket));
  });
  server.prependListener('request', ({ socket }: IncomingMessage, response: ServerResponse) => {
    const connection = connections.get(socket);
    if (connection) connection.open++;
    responses.add(response);
    if (isStopping) response.shouldKeepAlive = false;
    response.once('close', () => {
      responses.delete(response);
      if (!connection) return;
      connection.open--;
      connection.since = Date.now();
    });
  });
  // The WebSocket code ends these connections.
  server.prependListener('upgrade', ({ socket }: IncomingMessage) => connections.delete(socket));

  const endIdle = (): void => {
    for (const [socket, { open, since }] of connections)
      if (open === 0 && Date.now() - since >= IDLE_AFTER) socket.destroySoon();
  };
  return async () => {
    isStopping = true;
    for (const response of responses) response.shouldKeepAlive = false;
    const watching = setInterval(endIdle, LOOK_EVERY);
    const ending = setTimeout(() => server.closeAllConnections(), GRACE);
    endIdle();
    await new Promise<void>((resolve) => {
      // `server.close()` would close idle connections at once, even if a request is in transit.
      NetServer.prototype.close.call(server, () => resolve());
    });
    clearInterval(watching);
    clearTimeout(ending);
    server.close();
  };
}
