import type { IncomingMessage, ServerResponse } from 'node:http';
import { decisions, model } from '@kleidon/core';
import type { SignInSettings } from '../settings/settings.ts';
import { mapClaims } from '../sign-in/claims.ts';
import { ProviderProblem, providerAt, type Started } from '../sign-in/provider.ts';
import type { Seal } from '../sign-in/sealed.ts';
import { RESERVED_PREFIX, sessionCookie } from '../sign-in/session-cookie.ts';
import type { SessionRecord, SessionStore, SessionTimes } from '../store/sessions.ts';
import type { Buyers } from './buyers.ts';
import { BOUGHT } from './own-addresses.ts';
import { ownPath } from './own-path.ts';
import { bodyOf, page, sendOn, testPage } from './sign-in-answers.ts';

/** The gateway's own addresses: signing in and out, and what belongs to it. */
export interface SignIn {
  /** Who a request is by, where it brings a session that goes on. */
  /** @param isLooking nobody asks: a session is not kept alive by it */
  visitorOf(request: IncomingMessage, isLooking: boolean): model.Visitor | null;
  /** Answers what is asked for beneath the gateway's own addresses. */
  answer(
    request: IncomingMessage,
    response: ServerResponse,
    site: decisions.PreparedSite,
  ): Promise<void>;
}

export interface SignInOptions {
  readonly site: string;
  readonly settings: SignInSettings;
  readonly sessions: SessionStore;
  readonly seal: Seal;
  readonly publicAddress: () => string;
  /** What visitors bought counts for where they land, too. */
  readonly buyers: Buyers;
  readonly now: () => number;
}

const HOUR = 3_600_000;
/** How long someone may take to sign in at the provider, in seconds. */
const WAY_LASTS = 600;

/** What the sign-in is for. */
type Purpose = 'session' | 'test' | 'exact';

interface Way extends Started {
  readonly purpose: Purpose;
  /** Where the visitor was before; null where that is not known. */
  readonly from: string | null;
}

/** One request for an address of the gateway's own. */
interface On {
  readonly request: IncomingMessage;
  readonly response: ServerResponse;
  readonly site: decisions.PreparedSite;
  readonly url: URL;
}

export const timesOf = ({ lasts, idle }: SignInSettings): SessionTimes => ({
  lifetime: lasts * HOUR,
  idle: idle * HOUR,
});

export const isTestProvider = (settings: SignInSettings): boolean =>
  settings['test-provider'] === true || settings['test-provider'] === 'yes';

/** Signing in through an identity provider (OpenID Connect), and the sessions that follow. */
export function signInAt(options: SignInOptions): SignIn {
  const { site: name, settings, sessions, seal, now } = options;
  const provider = providerAt(settings);
  const times = timesOf(settings);
  const home = (): string => new URL(options.publicAddress()).origin;
  const cookies = () => sessionCookie(options.publicAddress());
  const back = (): string => `${home()}${RESERVED_PREFIX}signed-in`;

  /** What is sealed at one gateway is for no other one of the service. */
  const purposeOf = (step: 'sign-in' | 'sign-out'): string => `${step} ${name} ${home()}`;

  const sessionIn = (
    request: IncomingMessage,
    isLooking = false,
  ): (SessionRecord & { secret: string }) | null => {
    const secret = cookies().secretIn(request.headers.cookie);
    const found = secret === null ? null : sessions.find(name, secret, times, now(), isLooking);
    return found && { ...found, secret: secret! };
  };

  const begin = async (
    { request, response }: On,
    purpose: Purpose,
    from: string | null,
    hint: string | null,
  ): Promise<void> => {
    const { location, started } = await provider.begin(back(), hint);
    const way: Way = { ...started, purpose, from };
    const sealed = await seal.close({ ...way }, purposeOf('sign-in'), WAY_LASTS);
    sendOn(response, location, [
      ...cookies().clearOldLoginStates(request.headers.cookie),
      cookies().setLoginStateCookie(started.state, sealed, WAY_LASTS),
    ]);
  };

  const finish = async ({ request, response, site, url }: On): Promise<void> => {
    const state = url.searchParams.get('state') ?? '';
    const sealed = cookies().readLoginState(request.headers.cookie, state);
    const way = (
      sealed === null ? null : await seal.open(sealed, purposeOf('sign-in'))
    ) as Way | null;
    if (way?.state !== state) {
      page(request, response, 400, {
        title: 'This sign-in has run out',
        words: 'It was begun too long ago, in another browser, or it is done already.',
        links: [{ address: `${RESERVED_PREFIX}sign-in`, title: 'Sign in' }],
      });
      return;
    }
    const used = cookies().clearLoginState(state);
    const current = new URL(back());
    current.search = url.search;
    const signedIn = await provider.finish(current, way);
    if ('cancelled' in signedIn) {
      page(
        request,
        response,
        403,
        {
          title: 'You did not sign in',
          words:
            'The sign-in was cancelled, or the identity provider refused it. Nothing was changed.',
          links: [
            { address: `${RESERVED_PREFIX}sign-in`, title: 'Sign in' },
            { address: '/', title: 'To the site' },
          ],
        },
        [used],
      );
      return;
    }
    const { claims, idToken } = signedIn;
    const mapped = mapClaims(claims, settings.claims ?? {}, site.site.timeZone);
    if (way.purpose === 'test') {
      page(request, response, 200, testPage(mapped, site), [used]);
      return;
    }
    const { visitor } = mapped;
    if (visitor === null) throw new ProviderProblem('The identity provider named nobody.');
    const before = cookies().secretIn(request.headers.cookie);
    const secret = sessions.begin(name, { visitor, idToken }, times, now(), before);
    const location =
      way.purpose === 'exact'
        ? way.from!
        : decisions.landing(site, 'sign-in', options.buyers(visitor), way.from, now()).address;
    sendOn(response, location, [used, cookies().give(secret)]);
  };

  const signOut = async ({ request, response, site }: On): Promise<void> => {
    const session = sessionIn(request);
    const everywhere = new URLSearchParams(await bodyOf(request)).get('everywhere') === 'yes';
    const visitor = session?.visitor ?? model.GUEST;
    const { address } = decisions.landing(site, 'sign-out', visitor, null, now());
    if (session) {
      sessions.end(name, session.secret);
      if (everywhere) sessions.endAll(name, visitor.id!);
    }
    const state = await seal.close({ to: address }, purposeOf('sign-out'), WAY_LASTS);
    const there = session
      ? await provider
          .end(session.idToken, `${home()}${RESERVED_PREFIX}signed-out`, state)
          .catch(() => null)
      : null;
    // Another site may send this form too, without the cookie: that must not sign anyone out.
    sendOn(response, there ?? address, session ? [cookies().take()] : []);
  };

  const askToSignOut = ({ request, response }: On): void => {
    const session = sessionIn(request);
    page(
      request,
      response,
      200,
      session
        ? {
            title: 'Sign out',
            words: `You are signed in as ${session.visitor.title}.`,
            actions: [
              { address: `${RESERVED_PREFIX}sign-out`, title: 'Sign out' },
              {
                address: `${RESERVED_PREFIX}sign-out`,
                title: 'Sign out on all devices',
                field: 'everywhere',
              },
            ],
          }
        : {
            title: 'Signed out',
            words: 'You are not signed in.',
            links: [{ address: '/', title: 'To the site' }],
          },
    );
  };

  /** Opens a page as a sample visitor, whoever was signed in before. Only a test provider would let one. */
  const openAs = async (on: On): Promise<void> => {
    const { request, response, url } = on;
    const to = ownPath(url.searchParams.get('to')) ?? '/';
    const as = url.searchParams.get('as');
    if (as !== null && as !== '') {
      await begin(on, 'exact', to, as);
      return;
    }
    const secret = cookies().secretIn(request.headers.cookie);
    if (secret !== null) sessions.end(name, secret);
    sendOn(response, to, [cookies().take()]);
  };

  const ROUTES: Readonly<Record<string, (on: On) => void | Promise<void>>> = {
    'GET sign-in': (on) => {
      const { searchParams: query } = on.url;
      const from = ownPath(query.get('return'));
      // Whoever comes from a shop waits for the purchase, wherever people land otherwise.
      return query.get('bought') === 'yes'
        ? begin(on, 'exact', `${BOUGHT}?return=${encodeURIComponent(from ?? '/')}`, null)
        : begin(on, 'session', from, null);
    },
    'GET signed-in': finish,
    'GET test-sign-in': (on) => begin(on, 'test', null, null),
    'GET sign-out': askToSignOut,
    'POST sign-out': signOut,
    'GET signed-out': async ({ response, url }) => {
      const told = await seal.open(url.searchParams.get('state') ?? '', purposeOf('sign-out'));
      sendOn(response, ownPath((told?.['to'] as string | undefined) ?? null) ?? '/', []);
    },
    ...(isTestProvider(settings) ? { 'GET open-as': openAs } : {}),
  };

  return {
    visitorOf: (request, isLooking) => sessionIn(request, isLooking)?.visitor ?? null,
    answer: async (request, response, site) => {
      const url = new URL(request.url!.replace(/^https?:\/\/[^/]*/i, ''), home());
      const route = ROUTES[`${request.method} ${url.pathname.slice(RESERVED_PREFIX.length)}`];
      try {
        if (route) await route({ request, response, site, url });
        else
          page(request, response, 404, {
            title: 'Nothing here',
            words: 'There is no page at this address.',
          });
      } catch (error) {
        if (!(error instanceof ProviderProblem)) throw error;
        page(request, response, 502, {
          title: 'Signing in did not work',
          words: `${error.message} Nothing was changed.`,
          links: [
            { address: `${RESERVED_PREFIX}sign-in`, title: 'Try again' },
            { address: '/', title: 'To the site' },
          ],
        });
      }
    },
  };
}
