import { canonicalPath, isAmbiguous } from '../pattern/canonical.ts';
import { isSimple, matchForm, type Tidy } from './tidy.ts';

/** An address of a site, read and brought to one form. */
export interface Address {
  readonly protocol: 'http:' | 'https:';
  /** Host with port where it is not the default one. */
  readonly host: string;
  /** The path as asked for, in canonical spelling. */
  readonly asked: string;
  /** The path as rules are matched against it: every spelling of one address has the same. */
  readonly path: string;
  /** The query as asked for, without the question mark; empty when there is none. */
  readonly query: string;
}

/** Protocol and host of a site. */
export type Home = Pick<Address, 'protocol' | 'host'>;

export type AddressProblem =
  | 'too-long'
  | 'control-character'
  | 'backslash'
  | 'double-slash'
  | 'no-address'
  | 'malformed'
  | 'malformed-escape'
  | 'encoded-separator'
  | 'credentials';

export type ReadAddress =
  | { readonly ok: true; readonly address: Address }
  | { readonly ok: false; readonly problem: AddressProblem };

/** What servers are to support at least, by RFC 9110, 4.1; longer addresses are refused. */
export const MAX_ADDRESS_LENGTH = 8000;

const PROBLEM_TEXT: Record<AddressProblem, string> = {
  'too-long': `The address is longer than ${MAX_ADDRESS_LENGTH} characters.`,
  'control-character': 'The address holds a control character.',
  backslash: 'The address holds a backslash, which some read as a slash.',
  'double-slash': 'The address begins with two slashes: it can be read as a path or as a host.',
  'no-address': 'An address begins with / or with https://.',
  malformed: 'The address is not a URL.',
  'malformed-escape': 'The address holds an escape that is malformed or not UTF-8.',
  'encoded-separator':
    'The address holds an encoded slash, backslash or control character, which can be read two ways.',
  credentials: 'The address holds a user name or password.',
};

/** One sentence that says why an address was refused. */
export function explainAddressProblem(problem: AddressProblem): string {
  return PROBLEM_TEXT[problem];
}

/** Characters that stand for themselves in every path, whatever the letter case means on a site. */
const PLAIN = new Uint8Array(128);
for (const character of 'abcdefghijklmnopqrstuvwxyz0123456789-_~')
  PLAIN[character.charCodeAt(0)] = 1;
const [SLASH, DOT] = [0x2f, 0x2e];

/**
 * Whether an address is in its one form already, as most of those asked for are: plain characters,
 * and no segment that is empty or begins with a dot.
 */
export function isPlain(text: string): boolean {
  if (text.charCodeAt(0) !== SLASH) return false;
  let before = SLASH;
  for (let i = 1; i < text.length; i++) {
    const code = text.charCodeAt(i);
    const isInside = (code === SLASH || code === DOT) && before !== SLASH;
    if (code > 127 || (PLAIN[code] === 0 && !isInside)) return false;
    before = code;
  }
  return before !== SLASH || text.length === 1;
}

const CONTROL = /[\u0000-\u001f\u007f]/;

/**
 * Reads an address by the WHATWG URL Standard, and refuses what can be read two ways.
 *
 * @param text a path with or without a query (`/crew?x=1`), or an absolute http(s) URL
 * @param base protocol and host of an address that has none
 * @param tidy which spellings are the same on this site
 */
export function readAddress(text: string, base: Home, tidy: Tidy): ReadAddress {
  if (text.length > MAX_ADDRESS_LENGTH) return refuse('too-long');
  if (isPlain(text)) {
    return {
      ok: true,
      address: {
        protocol: base.protocol,
        host: base.host,
        asked: text,
        path: isSimple(tidy) ? text : matchForm(text, tidy),
        query: '',
      },
    };
  }
  if (CONTROL.test(text)) return refuse('control-character');
  const rawPath = text.replace(/[?#].*$/s, '');
  if (rawPath.includes('\\')) return refuse('backslash');
  if (text.startsWith('//')) return refuse('double-slash');
  if (!text.startsWith('/') && !/^https?:\/\//i.test(text)) return refuse('no-address');
  // Checked before dots are resolved: "/%2f/../crew" would hide it.
  if (isAmbiguous(rawPath)) return refuse('encoded-separator');
  let url: URL;
  try {
    // A URL parser drops a space at the end, which a server would see as part of the path.
    url = new URL(text.replaceAll(' ', '%20'), `${base.protocol}//${base.host}`);
  } catch {
    return refuse('malformed');
  }
  if (url.username !== '' || url.password !== '') return refuse('credentials');
  const asked = canonicalPath(url.pathname);
  if (asked === null || canonicalPath(rawPath) === null) return refuse('malformed-escape');
  return {
    ok: true,
    address: {
      protocol: url.protocol as Address['protocol'],
      host: url.host,
      asked,
      path: matchForm(asked, tidy),
      query: url.search.slice(1),
    },
  };
}

/** Prints an address: as a path on `home`, as a whole URL elsewhere. */
export function printAddress(address: Address, home: Home): string {
  const path = address.query === '' ? address.asked : `${address.asked}?${address.query}`;
  const isHome = address.host === home.host && address.protocol === home.protocol;
  return isHome ? path : `${address.protocol}//${address.host}${path}`;
}

const refuse = (problem: AddressProblem): ReadAddress => ({ ok: false, problem });
