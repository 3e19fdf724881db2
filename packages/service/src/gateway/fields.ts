import { setsOurCookie, withoutOurCookies } from '../sign-in/session-cookie.ts';

/** Fields that are for one connection only (RFC 9110, 7.6.1), besides those that `Connection` names. */
const HOP_BY_HOP = new Set([
  'connection',
  'keep-alive',
  'proxy-authenticate',
  'proxy-authorization',
  'proxy-connection',
  'te',
  'trailer',
  'transfer-encoding',
  'upgrade',
]);

/**
 * Fields by which a client could pose as the gateway or as another proxy, or ask for something else
 * than what was judged: another host, another address, another method.
 */
const NOT_FROM_CLIENTS =
  /^(?:forwarded|via|x-forwarded(?:-.*)?|x-real-ip|x-original-.*|x-rewrite-.*|x-(?:http-)?method(?:-override)?|x-host|x-url|kleidon-.*|host|expect)$/;

/** Field names and values by turns, as Node has them and as they are sent. */
export type RawFields = string[];

// The same names come again and again.
const stays = new Map<string, boolean>();
const MOST_NAMES = 1000;

/** Whether a field of a request may go on to the website; an underscore reads as a hyphen to some of them. */
function mayGoOn(name: string): boolean {
  let known = stays.get(name);
  if (known === undefined) {
    const lower = name.toLowerCase();
    known = !HOP_BY_HOP.has(lower) && !NOT_FROM_CLIENTS.test(lower.replaceAll('_', '-'));
    if (stays.size < MOST_NAMES) stays.set(name, known);
  }
  return known;
}

/** The fields of a request that go on to the website. */
export function forwardedFields(raw: readonly string[]): RawFields {
  const dropped = namedIn(raw);
  const kept: RawFields = [];
  for (let i = 0; i < raw.length; i += 2) {
    const name = raw[i]!;
    if (!mayGoOn(name) || dropped?.has(name.toLowerCase())) continue;
    const isCookie = name.length === 6 && name.toLowerCase() === 'cookie';
    const value = isCookie ? withoutOurCookies(raw[i + 1]!) : raw[i + 1]!;
    if (value !== null) kept.push(name, value);
  }
  return kept;
}

/** The fields of an answer that go back to the visitor; those of the rules take the place of the website's. */
export function answeredFields(
  raw: readonly string[],
  own: Readonly<Record<string, string>>,
): RawFields {
  const dropped = namedIn(raw);
  const mine = new Map(Object.entries(own).map(([name, value]) => [name.toLowerCase(), value]));
  const kept: RawFields = [];
  for (let i = 0; i < raw.length; i += 2) {
    const [name, value] = [raw[i]!, raw[i + 1]!];
    const lower = name.toLowerCase();
    if (HOP_BY_HOP.has(lower) || dropped?.has(lower)) continue;
    if (lower === 'set-cookie' && setsOurCookie(value)) continue;
    if (lower === 'vary' && mine.has('vary')) mine.set('vary', `${value}, ${mine.get('vary')}`);
    else if (!mine.has(lower)) kept.push(name, value);
  }
  for (const [name, value] of Object.entries(own))
    kept.push(name, mine.get(name.toLowerCase()) ?? value);
  return kept;
}

/** The value of a field; undefined where there is none. */
export function valueOf(raw: readonly string[], name: string): string | undefined {
  for (let i = 0; i < raw.length; i += 2)
    if (raw[i]!.length === name.length && raw[i]!.toLowerCase() === name) return raw[i + 1];
  return undefined;
}

/** `Forwarded` as RFC 7239 has it: who asked, for which host, over which protocol, and by way of whom. */
export function forwardedBy(remote: string | undefined, host: string, protocol: string): string {
  const client = remote === undefined ? 'unknown' : remote.includes(':') ? `"[${remote}]"` : remote;
  return `for=${client};host="${host}";proto=${protocol};by=_kleidon`;
}

/** The fields that `Connection` names besides; null where it names none, as nearly always. */
function namedIn(raw: readonly string[]): Set<string> | null {
  let named: Set<string> | null = null;
  for (let i = 0; i < raw.length; i += 2) {
    if (raw[i]!.length !== 10 || raw[i]!.toLowerCase() !== 'connection') continue;
    for (const one of raw[i + 1]!.split(',')) {
      const name = one.trim().toLowerCase();
      if (name !== 'keep-alive' && name !== 'close') (named ??= new Set()).add(name);
    }
  }
  return named;
}
