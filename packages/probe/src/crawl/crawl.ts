import { setTimeout as wait } from 'node:timers/promises';
import type { proposals } from '@kleidon/core';
import { ask, type Answer } from './ask.ts';
import { readHtml } from './read-html.ts';
import { robotsOf } from './robots.ts';

/** How far a crawl goes. */
export interface Limits {
  readonly pages: number;
  /** Links from the first page. */
  readonly depth: number;
  readonly seconds: number;
  /** Seconds that one answer may take. */
  readonly timeout: number;
  /** Milliseconds between two requests. */
  readonly pause: number;
}

/** What a crawl found. */
export interface Crawled extends proposals.Crawl {
  /** Links that lead nowhere: what was asked for, what came, and the page with the link. */
  readonly broken: readonly Broken[];
  /** Addresses that robots.txt keeps to itself. */
  readonly disallowed: number;
  /** Which limit ended it; null where everything was seen. */
  readonly endedBy: string | null;
}

export interface Broken {
  readonly address: string;
  readonly answer: string;
  readonly linkedFrom: string | null;
}

export interface Progress {
  readonly requests: number;
  readonly found: number;
  readonly waiting: number;
}

interface Step {
  readonly url: URL;
  readonly depth: number;
  readonly from: string | null;
}

/** The same path with other queries is asked for this often, for lists that go on and on. */
const QUERIES_PER_PATH = 20;
const LONGEST_RETRY = 60;
/** Addresses that are remembered. */
const MOST_SEEN = 200_000;

/**
 * Walks a site from one address, level by level, one request after the other. It stays on the host,
 * asks with GET alone, and leaves out what robots.txt excludes.
 *
 * @param home protocol and host by which the site may name itself in its links, where it is asked elsewhere
 * @throws WebsiteProblem where the site can't be reached, or does not say what may be read
 */
export async function crawl(
  start: URL,
  limits: Limits,
  onProgress: (progress: Progress) => void,
  home = start.origin,
): Promise<Crawled> {
  const robots = await robotsOf(start.origin, limits.timeout);
  const pause = Math.max(limits.pause, robots.pause);
  const end = Date.now() + limits.seconds * 1000;
  const queue: Step[] = [{ url: start, depth: 0, from: null }];
  const seen = new Set<string>([start.href]);
  const perPath = new Map<string, number>();
  const pages = new Map<string, proposals.FoundPage>();
  const menus: { on: string; menus: readonly proposals.FoundMenu[] }[] = [];
  let siteName: string | null = null;
  const broken: Broken[] = [];
  let requests = 0;
  let disallowed = 0;
  const beyond = new Set<string>();

  const enqueue = (link: string, depth: number, from: string): void => {
    const own = new URL(link);
    const url = own.origin === home ? new URL(own.pathname + own.search, start.origin) : own;
    if (url.origin !== start.origin || seen.has(url.href) || seen.size >= MOST_SEEN) return;
    seen.add(url.href);
    const times = (perPath.get(url.pathname) ?? 0) + 1;
    perPath.set(url.pathname, times);
    if (times > QUERIES_PER_PATH) return;
    if (depth > limits.depth) beyond.add(url.href);
    else queue.push({ url, depth, from });
  };

  const take = ({ url, depth, from }: Step, answer: Answer): void => {
    const path = url.pathname;
    const { status, location } = answer;
    if (status >= 300 && status < 400 && location !== null) {
      if (URL.canParse(location, url.href)) enqueue(new URL(location, url).href, depth, path);
    } else if (answer.body !== null) {
      const html = readHtml(answer.body, url.href);
      if (!pages.has(path))
        pages.set(path, {
          address: path,
          title: html.title ?? undefined,
          kind: 'document',
          listed: html.listed,
        });
      siteName ??= html.siteName;
      if (html.menus.length > 0) menus.push({ on: path, menus: html.menus });
      for (const link of html.follow ? html.links : []) enqueue(link, depth + 1, path);
    } else if (status === 401 || status === 403) {
      // It is there, and closed to those who are not signed in.
      if (!pages.has(path)) pages.set(path, { address: path });
    } else if (status >= 200 && status < 300) {
      if (!pages.has(path)) pages.set(path, { address: path, kind: 'file' });
    } else {
      const said = answer.failure ?? String(status);
      broken.push({ address: path + url.search, answer: said, linkedFrom: from });
    }
  };

  const limitReached = (): string | null => {
    if (pages.size >= limits.pages) return `${limits.pages} pages`;
    if (seen.size >= MOST_SEEN) return `${MOST_SEEN} addresses`;
    return Date.now() >= end ? `${limits.seconds} seconds` : null;
  };

  let endedBy: string | null = null;
  // The queue grows while it is read.
  for (const [position, step] of queue.entries()) {
    endedBy = limitReached();
    if (endedBy !== null) break;
    if (!robots.allows(step.url.href)) {
      disallowed++;
      continue;
    }
    if (requests > 0 && pause > 0) await wait(pause);
    requests++;
    take(step, await patiently(step.url.href, limits.timeout));
    onProgress({ requests, found: pages.size, waiting: queue.length - position - 1 });
  }
  const isDepth = endedBy === null && beyond.size > 0;
  if (isDepth) endedBy = `a depth of ${limits.depth} links`;
  return {
    origin: start.origin,
    siteName,
    pages: [...pages.values()],
    menus,
    broken,
    disallowed,
    endedBy,
  };
}

/** A server that says when to come again is asked once more then. */
async function patiently(address: string, timeout: number): Promise<Answer> {
  const answer = await ask(address, 'html', timeout);
  const { status, retryAfter } = answer;
  if ((status !== 429 && status !== 503) || retryAfter === null || retryAfter > LONGEST_RETRY)
    return answer;
  await wait(retryAfter * 1000);
  return ask(address, 'html', timeout);
}
