import { setTimeout as wait } from 'node:timers/promises';
import type { CookieJar } from 'tough-cookie';
import type { decisions } from '@kleidon/core';
import { USER_AGENT } from '../crawl/ask.ts';

/** How a probe asks: where the website is, and how patiently. */
export interface RequestOptions {
  /** Protocol and host of the website that is asked. */
  readonly base: string;
  /** Protocol and host that the site has in its rules; the website stands for it. */
  readonly home: string;
  /** Milliseconds between two requests. */
  readonly pause: number;
  /** Seconds that an answer may take. */
  readonly timeout: number;
  /** What is sent along to the website, whoever the visitor is. */
  readonly fields?: Readonly<Record<string, string>> | undefined;
}

/** What a visitor brings along. */
export interface Identity {
  readonly jar: CookieJar;
  readonly fields: Readonly<Record<string, string>>;
}

/** As many redirects as browsers follow. */
const MOST_HOPS = 21;
const LONGEST_RETRY = 60;
/** What is longer is not read to its end. */
const MOST_READ = 256 * 1024;

/**
 * Makes a visit over HTTP: asks with GET, follows each redirect that stays on the website, and notes
 * every answer. What redirects to another host is noted, and not asked for.
 */
export async function walk(
  address: string,
  options: RequestOptions,
  identity: Identity,
): Promise<decisions.Answered[]> {
  const answered: decisions.Answered[] = [];
  const seen = new Set<string>();
  let url: string | null = new URL(address, options.base).href;
  while (url !== null && !seen.has(url) && answered.length < MOST_HOPS) {
    seen.add(url);
    const { status, location, failure } = await askPolitely(url, options, identity);
    const next: string | null =
      location !== null && URL.canParse(location, url) ? new URL(location, url).href : null;
    answered.push({
      address: ofSite(url, options),
      status,
      location: next === null ? printable(location) : ofSite(next, options),
      failure,
    });
    url = next === null ? null : onWebsite(next, options);
  }
  return answered;
}

/** What a website writes is shown in terminals, where some characters are commands. */
const printable = (text: string | null): string | null =>
  text?.replace(/\p{Cc}/gu, '\u{FFFD}') ?? null;

/** An address as the rules have it: a path where it is on the site. */
function ofSite(url: string, { base, home }: RequestOptions): string {
  const { origin, pathname, search, hash } = new URL(url);
  return origin === base || origin === home ? pathname + search + hash : url;
}

/** Where an address is asked for; null where it is not on the website. */
function onWebsite(url: string, { base, home }: RequestOptions): string | null {
  const { origin, pathname, search } = new URL(url);
  return origin === base || origin === home ? base + pathname + search : null;
}

interface Got {
  readonly status: number;
  readonly location: string | null;
  readonly failure: string | null;
  readonly retryAfter?: number;
}

async function askPolitely(url: string, options: RequestOptions, identity: Identity): Promise<Got> {
  if (options.pause > 0) await wait(options.pause);
  const got = await ask(url, options, identity);
  const isBusy = got.status === 429 || got.status === 503;
  if (!isBusy || got.retryAfter === undefined || got.retryAfter > LONGEST_RETRY) return got;
  await wait(got.retryAfter * 1000);
  return ask(url, options, identity);
}

async function ask(
  url: string,
  { base, timeout, fields: always = {} }: RequestOptions,
  { jar, fields }: Identity,
): Promise<Got> {
  try {
    const cookie = await jar.getCookieString(url);
    const response = await fetch(url, {
      redirect: 'manual',
      headers: {
        'User-Agent': `${USER_AGENT} probe`,
        Accept: 'text/html,application/xhtml+xml,*/*;q=0.5',
        'Accept-Language': '*',
        ...(new URL(url).origin === base ? always : {}),
        ...fields,
        ...(cookie === '' ? {} : { Cookie: cookie }),
      },
      signal: AbortSignal.timeout(timeout * 1000),
    });
    for (const one of response.headers.getSetCookie())
      await jar.setCookie(one, url, { ignoreError: true });
    await discard(response);
    const retryAfter = Number(response.headers.get('Retry-After') ?? Number.NaN);
    return {
      status: response.status,
      location: response.headers.get('Location') ?? afterWaiting(response.headers.get('Refresh')),
      failure: null,
      ...(Number.isFinite(retryAfter) ? { retryAfter } : {}),
    };
  } catch (error) {
    const { message } = ((error as Error).cause ?? error) as Error;
    return { status: 0, location: null, failure: `no answer (${message || 'none'})` };
  }
}

/**
 * Reads a short body to its end, so that the connection can be used again; ends that of a long one. The length that
 * the website says is that of the compressed body.
 */
async function discard({ headers, body }: Response): Promise<void> {
  if (Number(headers.get('Content-Length') ?? Infinity) > MOST_READ) {
    await body?.cancel();
    return;
  }
  let read = 0;
  for await (const chunk of body ?? []) {
    read += (chunk as Uint8Array).length;
    if (read > MOST_READ) break;
  }
}

/** Where a page leads on by itself after a while; null where it does not, or to itself. */
const afterWaiting = (refresh: string | null): string | null =>
  /^\s*\d+\s*;\s*url=(.+)$/i.exec(refresh ?? '')?.[1] ?? null;

/** Signs out again at a website behind a gateway: a session that nobody needs any more is no use. */
export async function signOutThrough(options: RequestOptions, identity: Identity): Promise<void> {
  await ask(`${options.base}/.kleidon/open-as?to=/`, options, identity);
}

/**
 * Signs in through the gateway at a website, with a test provider that takes a visitor's name at
 * its word. Only the two hosts are asked.
 * @returns what went wrong; null where the visitor is signed in
 */
export async function signInThrough(
  testProvider: string,
  visitor: string,
  options: RequestOptions,
  identity: Identity,
): Promise<string | null> {
  const hosts = new Set([options.base, new URL(testProvider).origin]);
  let url = `${options.base}/.kleidon/open-as?as=${encodeURIComponent(visitor)}&to=/`;
  for (let hop = 0; hop < MOST_HOPS; hop++) {
    const { status, location, failure } = await ask(url, options, identity);
    if (failure !== null) return `${new URL(url).origin} gave ${failure}`;
    if (location === null) return `${ofSite(url, options)} answered ${status}`;
    const next = new URL(location, url);
    if (!hosts.has(next.origin)) return `it led to ${next.origin}`;
    // Back on a page of the site, the way is at its end.
    if (next.href === `${options.base}/`) return null;
    url = next.href;
  }
  return 'it led round in circles';
}
