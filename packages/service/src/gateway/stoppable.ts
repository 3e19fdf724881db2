import type { IncomingMessage, Server, ServerResponse } from 'node:http';
import { Server as NetServer, type Socket } from 'node:net';

/** How long requests that are under way may take to finish when the service stops, in milliseconds. */
const GRACE = 10_000;
/** A connection is idle after so long without a request: before, one may be on its way. */
const IDLE_AFTER = 100;
/** Longer than the event loop ever stalls: a request that was not read yet must not look like silence. */
const KEPT_ALIVE = 20_000;

interface Connection {
  /** Requests without a whole answer. */
  open: number;
  /** When the last one was answered. */
  since: number;
}

/**
 * Watches the connections of a server, so that it can stop without cutting any answer off: each answer from then on
 * closes its connection (RFC 9112, 9.6), and the server ends with the last one.
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
      if (connection) connection.open--;
      if (connection) connection.since = Date.now();
    });
  });
  // Its end is known to whoever took it over.
  server.prependListener('upgrade', ({ socket }: IncomingMessage) => connections.delete(socket));

  const endIdle = (): void => {
    for (const [socket, { open, since }] of connections)
      if (open === 0 && Date.now() - since >= IDLE_AFTER) socket.destroySoon();
  };
  return async () => {
    isStopping = true;
    for (const response of responses) response.shouldKeepAlive = false;
    const watching = setInterval(endIdle, IDLE_AFTER / 4);
    const ending = setTimeout(() => server.closeAllConnections(), GRACE);
    endIdle();
    await new Promise<void>((resolve) => {
      // The server's own would close connections at once to which a request is on its way.
      NetServer.prototype.close.call(server, () => resolve());
    });
    clearInterval(watching);
    clearTimeout(ending);
    server.close();
  };
}
