import type { IncomingMessage } from 'node:http';
import type { Client } from './origin/client.ts';
import { valuesOf } from './origin/fields.ts';

/** What a request asks for: an address of the site as decisions take it. */
export interface RequestTarget {
  readonly method: string;
  readonly address: string;
  /** How the request came, where the address says nothing of it. */
  readonly protocol: 'http:' | 'https:';
}

/** Why a request is not even shown to the rules. */
export interface RefusedTarget {
  readonly status: 400 | 405 | 421;
  readonly reason: string;
}

/** Where visitors reach the gateway: protocol and host with port. */
export type PublicAddress = Pick<URL, 'protocol' | 'host'>;

/** Methods that go on to the website; what is asked of a proxy itself does not. */
const METHODS = new Set(['GET', 'HEAD', 'POST', 'PUT', 'PATCH', 'DELETE', 'OPTIONS']);

/** A host with a port, as it may stand in `Host` (RFC 9110, 7.2): names, IPv4 and IPv6 addresses. */
const HOST = /^(?:[a-z0-9_](?:[a-z0-9_.-]*[a-z0-9_])?|\[[\da-f:.]+\])(?::\d{1,5})?$/;

/**
 * Reads the request line and the host (RFC 9112, 3.2 and 3.3). The host is that of an absolute target
 * where there is one, and there is exactly one of each.
 */
export function readRequestTarget(
  request: Pick<IncomingMessage, 'method' | 'url' | 'rawHeaders'>,
  client: Pick<Client, 'protocol' | 'host'>,
  home: PublicAddress,
  siteHost: string,
): RequestTarget | RefusedTarget {
  const { method = '', rawHeaders } = request;
  if (!METHODS.has(method)) return refused(405, `The method ${method} is not for this site.`);
  if (valuesOf(rawHeaders, 'host').length !== 1) return refused(400, 'A request names one host.');
  const url = textOf(request.url ?? '');
  if (url === null) return refused(400, 'The target is not UTF-8.');
  const isAbsolute = /^https?:\/\//i.test(url);
  if (!isAbsolute && !url.startsWith('/')) return refused(400, 'The target is no address.');
  const target = isAbsolute ? /^https?:\/\/([^/?#]*)(.*)$/is.exec(url)! : null;
  const named = (client.host ?? '').toLowerCase();
  const host = target?.[1]?.toLowerCase() ?? named;
  if (!HOST.test(host)) return refused(400, 'The host is none.');
  // An absolute target wins over the host field, and two that differ are how one poses as another.
  if (target && host !== named) return refused(400, 'The target and the host differ.');
  const path = target ? target[2]! || '/' : url;
  const { protocol } = client;
  const isHome = host === home.host.toLowerCase();
  // Where visitors reach the gateway stands for the address of the site, unless they came without the HTTPS that it has.
  if (isHome && (protocol === home.protocol || home.protocol === 'http:'))
    return { method, address: path, protocol };
  // Another host of the site keeps its name, for the rules that are about it.
  return { method, address: `${protocol}//${isHome ? siteHost : host}${path}`, protocol };
}

/** A target with what is not ASCII read as UTF-8, as browsers have it; null where it is something else. */
function textOf(url: string): string | null {
  if (/^[\x21-\x7e]*$/.test(url)) return url;
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(Buffer.from(url, 'latin1'));
  } catch {
    return null;
  }
}

const refused = (status: RefusedTarget['status'], reason: string): RefusedTarget => ({
  status,
  reason,
});
