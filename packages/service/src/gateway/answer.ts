import type { Socket } from 'node:net';
import type { Duplex } from 'node:stream';
import { decisions } from '@kleidon/core';
import {
  readable,
  withKnownCodings,
  withoutConditions,
  type OriginFields,
} from './origin-fields.ts';
import type { Exchange, Fields } from './exchange.ts';
import { answeredFields, valueOf, type RawFields } from './origin/fields.ts';
import { giveBack, mayBeMarked, type GivenBack, type PageOptions } from './give-back.ts';
import { TooBusy } from './origin/limits.ts';
import { OriginProblem, type Handshake, type Origin } from './origin/origin.ts';
import type { Pace } from './origin/pace.ts';
import { bodyOf, sendPage, wantsProblem, withAccept } from './send-page.ts';
import type { MissingAddress } from './missing-address.ts';
import { join, keyOf, switchingProtocols } from './web-socket.ts';
import type { GatewayOutcome } from '../store/records.ts';

/** What responses need of the gateway that gives them. */
export interface AnswerOptions {
  readonly website: Origin;
  /** The origin at the address of another server. */
  readonly originOf: (address: string) => Origin;
  /** Where visitors reach the gateway. */
  readonly home: () => URL;
  readonly fieldsFor: OriginFields;
  readonly pace: Pace;
  readonly pages: PageOptions;
  readonly now: () => number;
}

/** What came of a request to the website. */
interface Seen {
  given: GivenBack | null;
  /** Only some of a page came that may have parts. */
  isPartial: boolean;
}

/**
 * Gives the response that was decided; tells how the request ended.
 * @param missing the address that the website is asked for in place of a hidden one
 */
export type Answer = (
  exchange: Exchange,
  decision: decisions.Decision,
  missing: MissingAddress | null,
) => Promise<GatewayOutcome>;

/** Fields of a response that says that nothing is there, whatever the website or a gate has to do with it. */
const MISSING: Fields = { 'Cache-Control': 'private, no-store' };

/** The responses of a gateway: the website's own where the rules let a request through, those of the rules otherwise. */
export function answerBy({
  website,
  originOf,
  home,
  fieldsFor,
  pace,
  pages,
  now,
}: AnswerOptions): Answer {
  /** Lets a request through to the website, and its response back. */
  const pass = async (
    exchange: Exchange,
    decision: decisions.Decision,
    missing: MissingAddress | null,
  ): Promise<GatewayOutcome> => {
    const { request, response, client, site, target, webSocket } = exchange;
    const { method } = target;
    const { url, path } = missing ?? servedAt(decision, exchange);
    const origin = url ? originOf(url.origin) : website;
    const isSite = url === null;
    const sent = fieldsFor(exchange, url?.host ?? site.site.host, isSite);
    const fields = readable(sent instanceof Promise ? await sent : sent, site);
    const body = bodyOf(request);
    // The pages of the site say that nothing is there; other programs than browsers are told by the website.
    const isMissing = (status: number): boolean =>
      status === 404 && (decisions.isView(method) || site.hides) && isSite;
    const handshake = webSocket && isSite ? handshakeOf(exchange, webSocket) : null;
    const seen: Seen = { given: null, isPartial: false };
    const askFor = (sent: RawFields): Promise<number> =>
      origin.ask(
        { method, path, fields: sent, body, waits: response, client: client.address, handshake },
        ({ status, reason, fields, becomeStream, fail }) => {
          const raw = missing ? missing.restore(fields) : fields;
          // Partial content of a page may begin in the middle of a part that is not for the visitor.
          seen.isPartial = status === 206 && mayBeMarked(raw, site);
          if (seen.isPartial || isMissing(status)) return null;
          if (isEventStream(raw)) {
            if (!becomeStream()) throw new TooBusy();
            exchange.open.isStream = true;
          }
          const { headers } = decision;
          const answered = { status, reason, raw, headers, isSite, fail };
          seen.given = giveBack(exchange, answered, home().origin, now(), pages);
          return seen.given.sink;
        },
      );
    let status = await askFor(fields);
    if (seen.isPartial) status = await askFor(withoutConditions(fields));
    if (seen.isPartial) throw new OriginProblem(502, new Error('A whole page was asked for.'));
    if (seen.given) await seen.given.done;
    if (!isMissing(status)) return missing ? 'missing' : 'reach';
    const shown = decisions.notFoundAt(site, target.address, exchange.visitor, now());
    await refuse(exchange, shown.status, shown.content, MISSING);
    return 'missing';
  };

  /** Joins the two connections once the website has opened a WebSocket. */
  const handshakeOf = ({ request, response, open }: Exchange, webSocket: Duplex): Handshake => ({
    key: keyOf(request.rawHeaders),
    open: (socket, raw) => {
      open.isStream = true;
      response.detachSocket(webSocket as Socket);
      webSocket.write(switchingProtocols(answeredFields(raw, {})));
      join(webSocket, socket, pace);
    },
  });

  /** Answers with one of the website's own pages, with words, or with a page of the gateway's. */
  const refuse = async (
    exchange: Exchange,
    status: number,
    content: decisions.Content | null,
    headers: Fields,
  ): Promise<void> => {
    const { request, response } = exchange;
    if (content?.is === 'page' && decisions.isView(request.method!) && !wantsProblem(request)) {
      const varied = { ...headers, Vary: withAccept(headers['Vary']) };
      const isShown = await showPage(exchange, status, content.address, varied).catch(() => false);
      if (isShown || response.headersSent || response.destroyed) return;
    }
    sendPage(request, response, status, content, headers);
  };

  /** Answers with a page of the website in place of what was asked for; whether it has it. */
  const showPage = async (
    exchange: Exchange,
    status: number,
    address: string,
    headers: Fields,
  ): Promise<boolean> => {
    const { response, client, site } = exchange;
    const path = decisions.websiteAddress(site, address)!;
    const sent = withoutConditions(await fieldsFor(exchange, site.site.host, true));
    const fields = withKnownCodings(sent);
    const page = { method: 'GET', path, fields, body: null };
    const seen: Seen = { given: null, isPartial: false };
    const found = await website.ask(
      { ...page, waits: response, client: client.address },
      ({ status: answered, fields: raw, fail }) => {
        if (answered !== 200) return null;
        const shown = { status, reason: '', raw, headers, isSite: true, fail };
        seen.given = giveBack(exchange, shown, home().origin, now(), pages);
        return seen.given.sink;
      },
    );
    if (seen.given) await seen.given.done;
    return found === 200;
  };

  const sendOn = (
    { request, response, site }: Exchange,
    decision: decisions.Decision,
    location: string,
  ): void => {
    const siteHome = `${site.site.protocol}//${site.site.host}`;
    const { origin, protocol } = home();
    // The site's own address is where the gateway is reached, which is elsewhere when it is tried out: there
    // without HTTPS as a rule, so that a redirect to HTTPS goes to the site itself.
    const isToHttps = decision.reasons.at(-1)?.stage === 'https' && protocol === 'http:';
    const isHere = location === siteHome || location.startsWith(`${siteHome}/`);
    const target = isHere && !isToHttps ? origin + location.slice(siteHome.length) : location;
    const headers =
      decision.content?.is === 'wait'
        ? decision.headers
        : { ...decision.headers, Location: target };
    sendPage(request, response, decision.status, decision.content, headers);
  };

  return async (exchange, decision, missing) => {
    if (decision.outcome === 'reach') return pass(exchange, decision, null);
    if (missing) return pass(exchange, missing.decision, missing);
    if (decision.location !== null) sendOn(exchange, decision, decision.location);
    else await refuse(exchange, decision.status, decision.content, decision.headers);
    return decision.outcome;
  };
}

/** Whether a page is only said not to be there. */
export const isHidden = ({ outcome, reasons }: decisions.Decision): boolean =>
  outcome === 'missing' &&
  reasons.some(({ stage, verdict }) => stage === 'gate' && verdict === 'refused');

/** Whether the website is asked for an address that no page has. */
export const isUndeclared = ({ reasons }: decisions.Decision): boolean =>
  reasons.some(({ code }) => code === 'undeclared');

/** What is asked for, as it was judged; the address of the server where that is another one. */
function servedAt(
  { served }: decisions.Decision,
  { site, target }: { site: decisions.PreparedSite; target: { address: string } },
): { url: URL | null; path: string } {
  const address = served ?? decisions.websiteAddress(site, target.address)!;
  if (address.startsWith('/')) return { url: null, path: address };
  // Taken from what was judged, and not from what a parser makes of it.
  const path = address.slice(address.indexOf('/', address.indexOf('//') + 2));
  return { url: new URL(address), path };
}

const isEventStream = (raw: readonly string[]): boolean =>
  /^\s*text\/event-stream\s*(?:;|$)/i.test(valueOf(raw, 'content-type') ?? '');
