import type { IncomingMessage } from 'node:http';
import { BlockList, isIP } from 'node:net';
import ipaddr from 'ipaddr.js';

/** Who sent a request, and how it came to the first server of ours. */
export interface Client {
  /** The IP address of the visitor, as far as it can be known. */
  readonly address: string;
  readonly protocol: 'http:' | 'https:';
  /** The host that the visitor asked, as it was sent; undefined where the request names none. */
  readonly host: string | undefined;
}

/** The address of a client that a trusted proxy does not name. */
export const UNKNOWN = 'unknown';
/** The address of a client whose request carries two different ones: it has made up one of them. */
const DISPUTED = 'disputed';

/** Tells who sent a request: from the connection, and from proxies that are trusted to say so. */
export interface ClientReader {
  read(request: IncomingMessage): Client;
  /** Whether an address is that of a trusted proxy. */
  isTrusted(address: string): boolean;
}

/** What one proxy says of the request that came to it (RFC 7239); each may be missing. */
interface Forwarding {
  readonly address: string | undefined;
  readonly protocol: string | undefined;
  readonly host: string | undefined;
}

/**
 * Reads who sent a request.
 * @param trusted addresses and networks (`10.0.0.0/8`) of proxies that are trusted to say how a request came to them
 */
export function clientReader(trusted: readonly string[]): ClientReader {
  const proxies = new BlockList();
  for (const one of trusted) {
    const [address = '', prefix] = one.split('/');
    const family = isIP(address) === 6 ? 'ipv6' : 'ipv4';
    if (prefix === undefined) proxies.addAddress(address, family);
    else proxies.addSubnet(address, Number(prefix), family);
  }
  const isTrusted = (address: string): boolean =>
    trusted.length > 0 &&
    isIP(address) !== 0 &&
    proxies.check(address, isIP(address) === 6 ? 'ipv6' : 'ipv4');

  const read = (request: IncomingMessage): Client => {
    const isEncrypted = 'encrypted' in request.socket && request.socket.encrypted === true;
    const peer: Client = {
      address: plainAddress(request.socket.remoteAddress ?? ''),
      protocol: isEncrypted ? 'https:' : 'http:',
      host: request.headers.host,
    };
    if (!isTrusted(peer.address)) return peer;
    const said = [forwardedIn(request), usualFieldsIn(request)]
      .filter((all) => all !== null)
      .map((all) => lastStranger(all, peer));
    const [one, other] = said;
    if (!one) return { ...peer, address: UNKNOWN, protocol: 'http:' };
    if (!other) return one;
    // A proxy writes the one and passes the other on, which a visitor may have made up: only what both say counts.
    return {
      address: one.address === other.address ? one.address : DISPUTED,
      protocol: one.protocol === other.protocol ? one.protocol : 'http:',
      host: one.host === other.host ? one.host : peer.host,
    };
  };
  /** The last in a row of proxies that is not trusted: the visitor, or whoever is nearest to them. */
  const lastStranger = (all: readonly Forwarding[], peer: Client): Client => {
    let client = peer;
    // Each proxy adds to the end what it saw: the last is that of the one which is connected here.
    for (const { address, protocol, host } of [...all].reverse()) {
      client = {
        address: address ?? UNKNOWN,
        // Whoever does not say how the request came is not taken at a better word than the connection.
        protocol: protocol === 'https' ? 'https:' : 'http:',
        host: host ?? client.host,
      };
      if (address === undefined || !isTrusted(address)) break;
    }
    return client;
  };
  return { read, isTrusted: (address) => isTrusted(plainAddress(address)) };
}

/** IPv6 addresses that stand for an IPv4 address, which is in their last 32 bits (RFC 6052, 2.1). */
const NAT64 = ipaddr.IPv6.parseCIDR('64:ff9b::/96');

/**
 * Returns what counts as one client in limits: an IPv4 address, in whichever form it comes, or the network of 64 bits
 * that one subscriber has in IPv6.
 */
export function clientKey(address: string): string {
  if (isIP(address) !== 6) return address;
  const parsed = ipaddr.process(address);
  if (parsed instanceof ipaddr.IPv4) return parsed.toString();
  return parsed.match(NAT64)
    ? new ipaddr.IPv4(parsed.toByteArray().slice(-4)).toString()
    : parsed.parts
        .slice(0, 4)
        .map((part) => part.toString(16))
        .join(':');
}

/** An address in its usual form; an IPv4 address that came by way of IPv6 (RFC 4291, 2.5.5.2) is an IPv4 address. */
const plainAddress = (address: string): string =>
  isIP(address) === 6 ? ipaddr.process(address).toString() : address;

/** What proxies said in `Forwarded`, in their order; null where that is missing. */
const forwardedIn = ({ headers }: IncomingMessage): readonly Forwarding[] | null =>
  headers.forwarded === undefined ? null : headers.forwarded.split(',').map(readForwarded);

/** What proxies said in the usual fields, in their order; null where all of them are missing. */
function usualFieldsIn({ headers }: IncomingMessage): readonly Forwarding[] | null {
  const list = (name: string): string[] => {
    const value = headers[name];
    if (value === undefined) return [];
    return String(value)
      .split(',')
      .map((one) => one.trim());
  };
  const addresses = list('x-forwarded-for');
  const protocols = list('x-forwarded-proto');
  const hosts = list('x-forwarded-host');
  const count = Math.max(addresses.length, protocols.length, hosts.length);
  if (count === 0) return null;
  // Some proxies add to a list and others set one value: a lone value is that of the nearest.
  const at = (values: readonly string[], i: number): string | undefined =>
    values[i - (count - values.length)];
  return Array.from({ length: count }, (_, i) => ({
    address: readNode(at(addresses, i)),
    protocol: at(protocols, i)?.toLowerCase(),
    host: at(hosts, i),
  }));
}

/** One element of `Forwarded` (RFC 7239, 4). */
function readForwarded(element: string): Forwarding {
  const pairs = element.split(';').map((pair): [string, string] => {
    const [name = '', value = ''] = pair.split(/=(.*)/s);
    return [name.trim().toLowerCase(), value.trim().replace(/^"(.*)"$/s, '$1')];
  });
  const valueOf = (name: string): string | undefined => pairs.find(([one]) => one === name)?.[1];
  return {
    address: readNode(valueOf('for')),
    protocol: valueOf('proto')?.toLowerCase(),
    host: valueOf('host'),
  };
}

/** The address of a node (RFC 7239, 6), without its port; undefined where it hides it. */
function readNode(node: string | undefined): string | undefined {
  const bare = /^\[([\da-f:.]+)\](?::\d+)?$/i.exec(node ?? '')?.[1] ?? node ?? '';
  const address = isIP(bare) !== 0 ? bare : bare.replace(/:\d+$/, '');
  return isIP(address) === 0 ? undefined : plainAddress(address);
}
