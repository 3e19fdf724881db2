import { canonicalPath, isAmbiguous } from './canonical-path.ts';
import { segmentProblem, withoutDotSegments } from './segments.ts';
import { isNormalized } from './normalized.ts';
import { isSimple, normalizePath } from './tidy.ts';
import type { AddressProblem } from '../model/address-problem.ts';
import type { Tidy } from '../model/tidy.ts';

/** An address of a site, read and brought to one form. */
export interface Address {
  readonly protocol: 'http:' | 'https:';
  /** Host with port where it is not the default one. */
  readonly host: string;
  /** The path as asked for, in canonical spelling; it holds no dot segment. */
  readonly requestedPath: string;
  /** The path as rules are matched against it: every spelling of one address has the same. */
  readonly path: string;
  /** It was sent in another spelling: with dot segments, or with escapes that are not needed (RFC 3986, 6.2.2). */
  readonly isRespelled: boolean;
  /** The query as asked for, without the question mark; empty when there is none. */
  readonly query: string;
}

/** Protocol and host of a site. */
export type Home = Pick<Address, 'protocol' | 'host'>;

export type ReadAddress =
  | { readonly ok: true; readonly address: Address }
  | { readonly ok: false; readonly problem: AddressProblem };

/** What servers are to support at least, by RFC 9110, 4.1; longer addresses are refused. */
export const MAX_ADDRESS_LENGTH = 8000;

/** Escapes that are not needed, and escapes in small letters: they stand for what is written otherwise. */
const RESPELLED =
  /%(?:2[DE]|3\d|4[1-9A-F]|5[\dAF]|6[1-9A-F]|7[\dAE])|%(?:[a-f][\dA-Fa-f]|[\dA-F][a-f])/;
const CONTROL = /[\u0000-\u001f\u007f]/;
const ABSOLUTE = /^(https?):\/\/([^/?#]*)/i;
/** A query that the URL Standard leaves as it is. */
const PLAIN_QUERY = /^[\w%&=+.~*!$()/:;@,?[\]|^`{}\\-]*$/;

/**
 * Reads an address by the WHATWG URL Standard, and refuses what is ambiguous.
 *
 * The path is taken apart here and not by the URL parser of the platform, which in some versions
 * leaves dot segments behind a segment that begins with a dot.
 *
 * @param text a path with or without a query (`/crew?x=1`), or an absolute http(s) URL
 * @param base protocol and host of an address that has none
 * @param tidy which spellings are the same on this site
 */
export function readAddress(text: string, base: Home, tidy: Tidy): ReadAddress {
  if (text.length > MAX_ADDRESS_LENGTH) return refuse('too-long');
  if (isNormalized(text)) {
    return {
      ok: true,
      address: {
        protocol: base.protocol,
        host: base.host,
        requestedPath: text,
        path: isSimple(tidy) ? text : normalizePath(text, tidy),
        isRespelled: false,
        query: '',
      },
    };
  }
  if (CONTROL.test(text)) return refuse('control-character');
  const [beforeQuery, query] = splitQuery(text);
  if (beforeQuery.includes('\\')) return refuse('backslash');
  if (text.startsWith('//')) return refuse('double-slash');
  const absolute = text.startsWith('/') ? null : ABSOLUTE.exec(beforeQuery);
  if (!text.startsWith('/') && !absolute) return refuse('no-address');
  const home = absolute ? readOrigin(absolute[1]!, absolute[2]!) : base;
  if (typeof home === 'string') return refuse(home);
  const rawPath = (absolute ? beforeQuery.slice(absolute[0].length) : beforeQuery) || '/';
  // Checked before dots are resolved: "/%2f/../crew" would hide it.
  if (isAmbiguous(rawPath)) return refuse('encoded-separator');
  const canonical = canonicalPath(rawPath);
  if (canonical === null) return refuse('malformed-escape');
  const requestedPath = withoutDotSegments(canonical);
  const problem = segmentProblem(requestedPath, tidy.allow);
  if (problem !== null) return refuse(problem);
  return {
    ok: true,
    address: {
      ...home,
      requestedPath: requestedPath,
      path: normalizePath(requestedPath, tidy),
      isRespelled: requestedPath !== canonical || RESPELLED.test(rawPath),
      query: canonicalQuery(query),
    },
  };
}

/** Cuts an address at its question mark; a fragment is never sent. */
function splitQuery(text: string): [beforeQuery: string, query: string] {
  const hash = text.indexOf('#');
  const sent = hash === -1 ? text : text.slice(0, hash);
  const question = sent.indexOf('?');
  return question === -1 ? [sent, ''] : [sent.slice(0, question), sent.slice(question + 1)];
}

function readOrigin(scheme: string, authority: string): Home | AddressProblem {
  if (authority.includes('@')) return 'credentials';
  const text = `${scheme}://${authority}/`;
  if (!URL.canParse(text)) return 'malformed';
  const { protocol, host, pathname } = new URL(text);
  if (pathname !== '/') return 'malformed';
  return { protocol: protocol as Home['protocol'], host };
}

/** A query as the URL Standard writes it; a space at its end belongs to it. */
const canonicalQuery = (query: string): string =>
  PLAIN_QUERY.test(query)
    ? query
    : new URL(`http://x/?${query.replaceAll(' ', '%20')}`).search.slice(1);

/** Prints an address: as a path on `home`, as a whole URL elsewhere. */
export function printAddress(address: Address, home: Home): string {
  const path =
    address.query === '' ? address.requestedPath : `${address.requestedPath}?${address.query}`;
  const isHome = address.host === home.host && address.protocol === home.protocol;
  return isHome ? path : `${address.protocol}//${address.host}${path}`;
}

/** Returns an address of the site as its path; other addresses as they are. */
export function pathOnSite(
  address: string,
  { protocol, host, also }: Home & { readonly also: readonly string[] },
): string {
  if (address.startsWith('/')) return address;
  const own = [host, ...also].map((one) => `${protocol}//${one}`);
  const origin = own.find((one) => address === one || address.startsWith(`${one}/`));
  return origin === undefined ? address : address.slice(origin.length) || '/';
}

const refuse = (problem: AddressProblem): ReadAddress => ({ ok: false, problem });
