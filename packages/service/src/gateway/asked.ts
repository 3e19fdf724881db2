import type { IncomingMessage } from 'node:http';

/** What a request asks for: an address of the site as decisions take it. */
export interface Asked {
  readonly method: string;
  readonly address: string;
}

/** Why a request is not even looked at by the rules. */
export interface NotAsked {
  readonly status: 400 | 405 | 421;
  readonly because: string;
}

/** Where the gateway is reached, and the address that the site has in its rules. */
export interface Homes {
  /** Host with port, as browsers send it. */
  readonly reachedAt: string;
  readonly site: { readonly protocol: string; readonly host: string };
}

/** Methods that go on to the website; what is asked of a proxy itself does not. */
const METHODS = new Set(['GET', 'HEAD', 'POST', 'PUT', 'PATCH', 'DELETE', 'OPTIONS']);

/**
 * Reads the request line and the host (RFC 9112, 3.2 and 3.3). The host is that of an absolute target
 * where there is one, and there is exactly one of each.
 */
export function readAsked(request: IncomingMessage, { reachedAt, site }: Homes): Asked | NotAsked {
  const { method = '', url = '', rawHeaders } = request;
  if (!METHODS.has(method)) return refused(405, `The method ${method} is not for this site.`);
  const hosts = rawHeaders.filter((name, i) => i % 2 === 0 && name.toLowerCase() === 'host');
  if (hosts.length !== 1) return refused(400, 'A request names one host.');
  const isAbsolute = /^https?:\/\//i.test(url);
  if (!isAbsolute && !url.startsWith('/')) return refused(400, 'The target is no address.');
  const target = isAbsolute ? /^https?:\/\/([^/?#]*)(.*)$/is.exec(url)! : null;
  const host = (target?.[1] ?? request.headers.host ?? '').toLowerCase();
  // An absolute target wins over the host field, and two that differ are how one poses as another.
  if (target && host !== request.headers.host?.toLowerCase())
    return refused(400, 'The target and the host differ.');
  const path = target ? target[2]! || '/' : url;
  if (host === reachedAt.toLowerCase()) return { method, address: path };
  // Another host of the site keeps its name, for the rules that are about it.
  return { method, address: `${site.protocol}//${host}${path}` };
}

const refused = (status: NotAsked['status'], because: string): NotAsked => ({ status, because });
