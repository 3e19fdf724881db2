import type { IncomingMessage, ServerResponse } from 'node:http';
import { decisions, type model, purchases } from '@kleidon/core';
import { RESERVED_PREFIX } from '../sign-in/session-cookie.ts';
import { ownPath } from './own-path.ts';
import { OWN_PAGE_FIELDS } from './send-page.ts';
import { page, sendOn } from './sign-in-answers.ts';

/** A request for one of the gateway's own addresses, by whoever asks. */
export interface OwnRequest {
  readonly request: IncomingMessage;
  readonly response: ServerResponse;
  readonly site: decisions.PreparedSite;
  readonly visitor: model.Visitor;
  /** What is asked for: a path, and a query where there is one. */
  readonly address: string;
  /** Whether visitors sign in at the gateway. */
  readonly hasSignIn: boolean;
  /** In milliseconds since 1970. */
  readonly now: number;
}

/** Where the website's own login sends people after signing in: to where they land. */
const LANDING = `${RESERVED_PREFIX}landing`;
/** Where a shop sends people after paying: to the page that they wanted, once their purchase counts. */
export const BOUGHT = `${RESERVED_PREFIX}bought`;
/** Who a visitor is here, as JSON. */
const ME = `${RESERVED_PREFIX}me`;

/** The gateway's own addresses that no identity provider is needed for. */
const ANSWERS: ReadonlyMap<string, (own: OwnRequest, query: URLSearchParams) => void> = new Map([
  [LANDING, sendToLanding],
  [BOUGHT, awaitPurchase],
  [ME, tellWho],
]);

/** Answers a request for one of these addresses. @returns whether it is one of them */
export function answerOwn(own: OwnRequest): boolean {
  const [path = '', query = ''] = own.address.split('?', 2);
  const answer = decisions.isView(own.request.method!) ? ANSWERS.get(path) : undefined;
  answer?.(own, new URLSearchParams(query));
  return answer !== undefined;
}

function sendToLanding({ response, site, visitor, now }: OwnRequest, query: URLSearchParams): void {
  const from = ownPath(query.get('return'));
  sendOn(response, decisions.landing(site, 'sign-in', visitor, from, now).address, []);
}

/** How often the page asks again, in seconds; and when it says that this takes long. */
const SOON = 1;
const LATER = 10;
const LONG = 60;

/** Waits for what a shop tells of a purchase, and goes on to the page that was wanted by itself. */
function awaitPurchase(
  { request, response, site, visitor, hasSignIn, now }: OwnRequest,
  query: URLSearchParams,
): void {
  const wanted = ownPath(query.get('return')) ?? '/';
  const { outcome } = decisions.visit(site, { method: 'GET', address: wanted }, visitor, now);
  // Waiting would change nothing about a page that is not there.
  if (outcome !== 'block' && outcome !== 'sign-in') {
    sendOn(response, wanted, []);
    return;
  }
  const back = `return=${encodeURIComponent(wanted)}`;
  const toPage = { address: wanted, title: 'To the page' };
  if (visitor.guest) {
    const signIn = hasSignIn
      ? `${RESERVED_PREFIX}sign-in?bought=yes&${back}`
      : `${site.site.signIn ?? '/'}?return=${encodeURIComponent(`${BOUGHT}?${back}`)}`;
    page(request, response, 200, {
      title: 'Thank you for your purchase',
      words:
        'Sign in with the e-mail address with which you bought, and you are taken to the page.',
      links: [{ address: signIn, title: 'Sign in' }],
    });
    return;
  }
  const said = Number(query.get('since'));
  const since = said > 0 && said <= now ? said : now;
  const isLong = now - since > LONG * 1000;
  const again = `${BOUGHT}?${back}&since=${since}`;
  response.setHeader('Refresh', `${isLong ? LATER : SOON}; url=${again}`);
  page(request, response, 200, {
    title: 'Your purchase is being confirmed',
    words: isLong
      ? `This takes longer than usual. The page opens by itself once the shop has confirmed it; you are signed in as ${visitor.title}: if you bought with another e-mail address, sign in with that one, or ask the shop.`
      : 'The page opens by itself in a moment.',
    links:
      isLong && hasSignIn
        ? [toPage, { address: `${RESERVED_PREFIX}sign-out`, title: 'Sign out' }]
        : [toPage],
  });
}

/** Says who a visitor is here, and what they bought, to the pages of the site. */
function tellWho({ response, site, visitor, now }: OwnRequest): void {
  const { products } = site.names;
  const body = JSON.stringify({
    signedIn: !visitor.guest,
    id: visitor.id,
    name: visitor.guest ? null : visitor.title,
    roles: visitor.roles,
    groups: visitor.groups,
    purchases: visitor.bought.map((one) => ({
      product: one.product,
      title: site.site.products[one.product]?.title ?? one.product,
      state: purchases.stateOf(one, purchases.graceOf(one.product, products), now),
      from: isoOrNull(one.from),
      until: isoOrNull(one.until),
    })),
  });
  response.writeHead(200, {
    ...OWN_PAGE_FIELDS,
    'Content-Type': 'application/json',
    'Cache-Control': 'no-store',
    'Cross-Origin-Resource-Policy': 'same-origin',
    'Content-Length': Buffer.byteLength(body),
  });
  response.end(body);
}

const isoOrNull = (at: number | null): string | null =>
  at === null ? null : new Date(at).toISOString();
