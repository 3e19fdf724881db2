import type { IncomingMessage, ServerResponse } from 'node:http';
import {
  askedFor,
  decide,
  isView,
  notFoundAt,
  type Content,
  type Decision,
  type PreparedSite,
  type Visitor,
} from '@kleidon/core';
import { VISITOR_FIELD, type VisitorProof } from '../sign-in/visitor-proof.ts';
import type { Client } from './client.ts';
import {
  answeredFields,
  forwardedBy,
  forwardedFields,
  valueOf,
  valuesOf,
  type RawFields,
} from './fields.ts';
import { TooBusy } from './limits.ts';
import { contentKind, type ContentKind } from './marks/content-kind.ts';
import { passPage } from './marks/pass-page.ts';
import { visibilityFor } from './marks/visibility.ts';
import type { OpenExchange } from './open-exchanges.ts';
import { OriginProblem, type Origin, type Sink } from './origin.ts';
import type { RequestTarget } from './request-target.ts';
import { bodyOf, sendPage } from './send-page.ts';
import type { GatewayOutcome } from './watch.ts';

/** What responses need of the gateway that gives them. */
export interface AnswerOptions {
  readonly website: Origin;
  /** The origin at the address of another server. */
  readonly originOf: (address: string) => Origin;
  /** Where visitors reach the gateway. */
  readonly home: () => URL;
  readonly proof: VisitorProof;
  readonly now: () => number;
}

/** One request, and the response that it gets. */
export interface Exchange {
  readonly request: IncomingMessage;
  readonly response: ServerResponse;
  readonly client: Client;
  readonly site: PreparedSite;
  readonly target: RequestTarget;
  readonly visitor: Visitor;
  /** How it is judged again while it goes on. */
  readonly open: OpenExchange;
}

export interface Answers {
  /** Gives the response that was decided; tells how the request ended. */
  answer(exchange: Exchange, decision: Decision): Promise<GatewayOutcome>;
  /** The fields with which the website is asked. */
  fieldsFor(
    exchange: Pick<Exchange, 'request' | 'client' | 'visitor'>,
    host: string,
    isSite: boolean,
  ): Promise<RawFields>;
  /** Gives a response of the website as it came, but for what its visitor must not see. */
  giveBack(exchange: Exchange, given: Given): { sink: Sink | null; done: Promise<void> };
}

type Fields = Readonly<Record<string, string>>;

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

/** Fields of a response that says that nothing is there, whatever the website or a gate has to do with it. */
const MISSING: Fields = { 'Cache-Control': 'private, no-store' };
const DONE = Promise.resolve();

/** The responses of a gateway: the website's own where the rules let a request through, those of the rules otherwise. */
export function answersOf({ website, originOf, home, proof, now }: AnswerOptions): Answers {
  const fieldsFor: Answers['fieldsFor'] = async ({ request, client, visitor }, host, isSite) => {
    const { host: reached } = home();
    const by = forwardedBy(client.address, reached, client.protocol.slice(0, -1));
    const token = visitor.guest ? null : await proof.of(visitor, `https://${host}`, now());
    const who = token === null ? [] : [VISITOR_FIELD, token];
    const forwarded = forwardedFields(request.rawHeaders, isSite);
    return [...forwarded, 'Host', host, 'Forwarded', by, ...who];
  };

  /** Lets a request through to the website, and its response back. */
  const pass = async (exchange: Exchange, decision: Decision): Promise<GatewayOutcome> => {
    const { request, response, client, site, target } = exchange;
    const { method } = target;
    const served = decision.served ?? askedFor(site, target.address)!;
    const url = served.startsWith('/') ? null : new URL(served);
    const origin = url ? originOf(url.origin) : website;
    // Taken from what was judged, and not from what a parser makes of it.
    const path = url ? served.slice(served.indexOf('/', served.indexOf('//') + 2)) : served;
    const fields = withKnownCodings(
      withOneRange(await fieldsFor(exchange, url?.host ?? site.site.host, url === null), site),
    );
    const body = bodyOf(request);
    // The pages of the site say that nothing is there; other programs than browsers are told by the website.
    const isMissing = (status: number): boolean =>
      status === 404 && (isView(method) || site.hides) && url === null;
    let done = DONE;
    const askFor = async (sent: RawFields): Promise<{ status: number; isPartial: boolean }> => {
      const seen = { isPartial: false };
      const answered = await origin.ask(
        { method, path, fields: sent, body, waits: response, client: client.address },
        ({ status, reason, fields: raw, becomeStream, fail }) => {
          seen.isPartial = status === 206 && mayBeMarked(kindOf(raw), site);
          // Partial content of a page may begin in the middle of a part that is not for the visitor.
          if (seen.isPartial || isMissing(status)) return null;
          if (isEventStream(raw)) {
            if (!becomeStream()) throw new TooBusy();
            exchange.open.isStream = true;
          }
          const given = {
            status,
            reason,
            raw,
            headers: decision.headers,
            isSite: url === null,
            fail,
          };
          const passed = giveBack(exchange, given);
          ({ done } = passed);
          return passed.sink;
        },
      );
      return { status: answered, ...seen };
    };
    const first = await askFor(fields);
    const answered = first.isPartial ? await askFor(withoutConditions(fields)) : first;
    if (answered.isPartial) throw new OriginProblem(502, new Error('A whole page was asked for.'));
    await done;
    if (!isMissing(answered.status)) return 'reach';
    const missing = notFoundAt(site, target.address, exchange.visitor, now());
    await refuse(exchange, missing.status, missing.content, MISSING);
    return 'missing';
  };

  /** Answers with one of the website's own pages, with words, or with a page of the gateway's. */
  const refuse = async (
    exchange: Exchange,
    status: number,
    content: Content | null,
    headers: Fields,
  ): Promise<void> => {
    const { request, response, client, site } = exchange;
    if (content?.is === 'page' && isView(request.method!)) {
      const path = askedFor(site, content.address)!;
      const fields = withoutConditions(await fieldsFor(exchange, site.site.host, true));
      let done = DONE;
      const shown = await website
        .ask(
          {
            method: 'GET',
            path,
            fields: withKnownCodings(fields),
            body: null,
            waits: response,
            client: client.address,
          },
          ({ status: found, fields: raw, fail }) => {
            if (found !== 200) return null;
            const passed = giveBack(exchange, {
              status,
              reason: '',
              raw,
              headers,
              isSite: true,
              fail,
            });
            ({ done } = passed);
            return passed.sink;
          },
        )
        .then(async (found) => {
          await done;
          return found;
        })
        .catch(() => null);
      if (shown === 200 || response.headersSent || response.destroyed) return;
    }
    sendPage(request, response, status, content, headers);
  };

  const giveBack: Answers['giveBack'] = (exchange, given) => {
    const { status, reason, raw, headers, isSite, fail } = given;
    const { request, response, site, target, visitor } = exchange;
    const kind = kindOf(raw);
    const untouched = answeredFields(raw, headers, isSite);
    const mayHaveMarks = mayBeMarked(kind, site);
    const changed = mayHaveMarks ? ofOneVisitor(untouched) : untouched;
    if (/^[\t\x20-\x7e\x80-\xff]+$/.test(reason)) response.statusMessage = reason;
    if (request.method === 'HEAD' || !mayHaveMarks || status === 304 || status === 204) {
      writeHead(response, status, changed);
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
      changed,
      hasParts: hasParts(site),
      sees: () => visibilityFor(site, visitor, target.address, home().origin, now()),
      fail,
    });
    if (!passed) throw new OriginProblem(502, new Error(`A page came in the coding "${coding}".`));
    return { sink: passed, done: passed.done };
  };

  const sendOn = (
    { request, response, site }: Exchange,
    decision: Decision,
    location: string,
  ): void => {
    const siteHome = `${site.site.protocol}//${site.site.host}`;
    const { origin, protocol } = home();
    // The site's own address is where the gateway is reached, which is elsewhere when it is tried out: there
    // without HTTPS as a rule, so that a redirect to HTTPS leads to the site itself.
    const isToHttps = decision.reasons.at(-1)?.stage === 'https' && protocol === 'http:';
    const isHere = location === siteHome || location.startsWith(`${siteHome}/`);
    const target = isHere && !isToHttps ? origin + location.slice(siteHome.length) : location;
    const headers =
      decision.content?.is === 'wait'
        ? decision.headers
        : { ...decision.headers, Location: target };
    sendPage(request, response, decision.status, decision.content, headers);
  };

  /**
   * Asks the website what it would be asked where nothing is, if it would be asked there at all: how long a
   * response takes must not tell what is hidden from what is not there.
   */
  const takeAsLongAsMissing = async (exchange: Exchange): Promise<void> => {
    const { response, client, site, target, visitor } = exchange;
    const path = askedFor(site, target.address);
    if (path === null || !isView(target.method)) return;
    const address = madeUpBeside(path);
    const decision = decide(site, { ...target, address }, visitor, now());
    if (decision.outcome !== 'reach' || decision.served !== null) return;
    const fields = withKnownCodings(
      withOneRange(await fieldsFor(exchange, site.site.host, true), site),
    );
    await website
      .ask(
        {
          method: target.method,
          path: address,
          fields,
          body: null,
          waits: response,
          client: client.address,
        },
        () => null,
      )
      .catch(() => null);
  };

  return {
    fieldsFor,
    giveBack,
    answer: async (exchange, decision) => {
      if (decision.outcome === 'reach') return pass(exchange, decision);
      if (isHidden(decision)) await takeAsLongAsMissing(exchange);
      if (decision.location !== null) sendOn(exchange, decision, decision.location);
      else await refuse(exchange, decision.status, decision.content, decision.headers);
      return decision.outcome;
    },
  };
}

/** Whether a page is only said not to be there. */
export const isHidden = ({ outcome, reasons }: Decision): boolean =>
  outcome === 'missing' &&
  reasons.some(({ stage, verdict }) => stage === 'gate' && verdict === 'refused');

/** An address in the same section that nothing has. */
function madeUpBeside(path: string): string {
  const [before = '/'] = path.split('?');
  const section = before.slice(0, before.lastIndexOf('/', before.length - 2) + 1) || '/';
  const name = Array.from({ length: 3 }, () => Math.random().toString(36).slice(2, 8)).join('');
  return `${section}${name}`;
}

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

const kindOf = (raw: readonly string[]): ContentKind => contentKind(valuesOf(raw, 'content-type'));

const isEventStream = (raw: readonly string[]): boolean =>
  /^\s*text\/event-stream\s*(?:;|$)/i.test(valueOf(raw, 'content-type') ?? '');

/** Whether a site has parts, or menus that are not the same for everyone. */
const hasParts = ({ site }: PreparedSite): boolean =>
  site.parts.length > 0 || site.menus.some(({ onlyUsable }) => onlyUsable);

/**
 * Whether a response may have something marked in it. A page does also where the site file has no parts any
 * more; of what browsers take for a page only in some cases, where it has.
 */
const mayBeMarked = (kind: ContentKind, site: PreparedSite): boolean =>
  kind.is === 'html' ||
  (kind.is === 'xml' && (kind.isPage || hasParts(site))) ||
  (kind.is === 'unclear' && hasParts(site));

const without = (fields: readonly string[], names: RegExp): RawFields =>
  fields.filter((_, i) => !names.test(fields[i - (i % 2)]!));

/** A page that stands for another one is asked for as a whole. */
const withoutConditions = (fields: RawFields): RawFields =>
  without(fields, /^(?:if-.*|range|content-.*)$/i);

/**
 * Several ranges come as several contents in one, in which nothing can be told from parts; and whether anything
 * is there at all is for the rules to say. A server may ignore what is asked for here (RFC 9110, 14.2).
 */
function withOneRange(fields: RawFields, site: PreparedSite): RawFields {
  if (!hasParts(site)) return fields;
  const several = valuesOf(fields, 'range').join(',').includes(',');
  const any = valuesOf(fields, 'if-none-match').join(',').includes('*');
  return several || any ? without(fields, /^(?:if-none-match|if-range|range)$/i) : fields;
}

/** Pages may have marks: they are asked for in codings that can be decoded. */
function withKnownCodings(fields: RawFields): RawFields {
  return fields.map((value, i) =>
    i % 2 === 1 && fields[i - 1]!.toLowerCase() === 'accept-encoding'
      ? value
          .split(',')
          .filter((one) => /^\s*(?:gzip|br|identity)\s*(?:;|$)/i.test(one))
          .join(',') || 'identity'
      : value,
  );
}

/** The fields of a page that is not the same for everyone: nobody else may be given it, nor partial content of it. */
const ofOneVisitor = (fields: RawFields): RawFields => [
  ...without(
    answeredFields(fields, { 'Cache-Control': 'private, no-store' }),
    /^(?:content-length|content-encoding|etag|last-modified|accept-ranges|(?:content-|repr-)?digest|content-md5)$/i,
  ),
];
