import type { ServerResponse } from 'node:http';
import type { decisions } from '@kleidon/core';
import { hasParts, type Exchange, type Fields } from './exchange.ts';
import { answeredFields, valuesOf, without, type RawFields } from './origin/fields.ts';
import { contentKind, type ContentKind } from './marks/content-kind.ts';
import type { PageReader } from './marks/page-reader.ts';
import { passPage } from './marks/pass-page.ts';
import { visibilityFor } from './marks/visibility.ts';
import { OriginProblem, type Sink } from './origin/origin.ts';

/** A response of the website. */
export interface Given {
  readonly status: number;
  readonly reason: string;
  readonly raw: readonly string[];
  /** The fields of the rules. */
  readonly headers: Fields;
  /** It comes from the website, and not from another server. */
  readonly isSite: boolean;
  /** Ends the request where nothing can be made of the response. */
  readonly fail: (problem: Error) => void;
}

/** Where the content of a response goes, and when all of it went through. */
export interface GivenBack {
  /** Null where no content goes to the visitor. */
  readonly sink: Sink | null;
  readonly done: Promise<void>;
}

/** How a page that may have marks is read. */
export interface PageOptions {
  readonly readPage: PageReader;
  /** How long the website may take to begin a response, and to complete a page that is held, in milliseconds. */
  readonly originTimeout: number;
}

const DONE = Promise.resolve();

/**
 * Gives a response of the website as it came, but for what its visitor must not see.
 * @param home protocol, host and port at which visitors reach the gateway
 * @throws OriginProblem where nothing can be made of it
 */
export function giveBack(
  exchange: Exchange,
  given: Given,
  home: string,
  now: number,
  { readPage, originTimeout }: PageOptions,
): GivenBack {
  const { status, reason, raw, headers, isSite, fail } = given;
  const { request, response, client, site, target, visitor } = exchange;
  const kind = kindOf(raw);
  const untouched = answeredFields(raw, headers, isSite);
  const mayHaveMarks = isMarkable(kind, site);
  if (/^[\t\x20-\x7e\x80-\xff]+$/.test(reason)) response.statusMessage = reason;
  if (request.method === 'HEAD' || !mayHaveMarks || status === 304 || status === 204) {
    writeHead(response, status, mayHaveMarks ? ofOneVisitor(untouched) : untouched);
    if (request.method === 'HEAD') {
      response.end();
      return { sink: null, done: DONE };
    }
    // With the first of the content where that comes at once, and by themselves where it does not.
    setImmediate(() => response.flushHeaders());
    return { sink: response, done: DONE };
  }
  const coding = valuesOf(raw, 'content-encoding').join(', ');
  const passed = passPage({
    response,
    status,
    kind,
    coding,
    untouched,
    changed: () => ofOneVisitor(untouched),
    hasParts: hasParts(site),
    sees: () => visibilityFor(site, visitor, target.address, home, now),
    patience: originTimeout,
    read: (content, shape) => readPage(content, shape, client.address),
    fail,
  });
  if (!passed) throw new OriginProblem(502, new Error(`A page came in the coding "${coding}".`));
  return { sink: passed, done: passed.done };
}

/** Whether the content of a response may have something marked in it. */
export const mayBeMarked = (raw: readonly string[], site: decisions.PreparedSite): boolean =>
  isMarkable(kindOf(raw), site);

const kindOf = (raw: readonly string[]): ContentKind => contentKind(valuesOf(raw, 'content-type'));

/**
 * A page may also where the site file has no parts any more; of what browsers take for a page only in some
 * cases, where it has.
 */
const isMarkable = (kind: ContentKind, site: decisions.PreparedSite): boolean =>
  kind.is === 'html' ||
  (kind.is === 'xml' && (kind.isPage || hasParts(site))) ||
  (kind.is === 'unclear' && hasParts(site));

/**
 * Writes the head of a response of the website.
 * @throws OriginProblem where it holds what no response may have
 */
function writeHead(response: ServerResponse, status: number, fields: RawFields): void {
  try {
    response.writeHead(status, fields);
  } catch (error) {
    throw new OriginProblem(502, error);
  }
}

/** The fields of a page that is not the same for everyone: nobody else may be given it, nor partial content of it. */
const ofOneVisitor = (fields: RawFields): RawFields =>
  without(
    answeredFields(fields, { 'Cache-Control': 'private, no-store' }),
    /^(?:content-length|content-encoding|etag|last-modified|accept-ranges|(?:content-|repr-)?digest|content-md5)$/i,
  );
