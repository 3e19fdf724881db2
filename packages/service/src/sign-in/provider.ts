import {
  allowInsecureRequests,
  authorizationCodeGrant,
  AuthorizationResponseError,
  buildAuthorizationUrl,
  buildEndSessionUrl,
  calculatePKCECodeChallenge,
  ClientSecretBasic,
  customFetch,
  discovery,
  fetchUserInfo,
  None,
  randomNonce,
  randomPKCECodeVerifier,
  randomState,
  type Configuration,
} from 'openid-client';
import { boundedFetch } from './bounded-fetch.ts';
import type { SignInSettings } from '../settings/settings.ts';
import { joinClaims, type Claims } from './claims.ts';

/** The identity provider can't be asked, or said no. */
export class ProviderProblem extends Error {}

/** What must be remembered from the start of a sign-in to its end. */
export interface Started {
  readonly state: string;
  readonly nonce: string;
  readonly verifier: string;
}

export interface SignedIn {
  readonly claims: Claims;
  readonly idToken: string;
}

/** Nobody signed in, and nothing went wrong: the visitor left, or the provider does not let them in. */
export interface Cancelled {
  readonly cancelled: string;
}

/** What the provider says then (RFC 6749, 4.1.2.1; OpenID Connect Core, 3.1.2.6). */
const CANCELLATIONS: ReadonlySet<unknown> = new Set([
  ...['access_denied', 'login_required', 'interaction_required', 'consent_required'],
  'account_selection_required',
]);

/** An identity provider, as a client of it sees it (OpenID Connect Core; code flow with PKCE, RFC 7636). */
export interface Provider {
  readonly issuer: string;
  /** Where the browser goes to sign in. */
  begin(back: string, hint: string | null): Promise<{ location: string; started: Started }>;
  /** What the provider says of who came back to `current`. */
  finish(current: URL, started: Started): Promise<SignedIn | Cancelled>;
  /** Where the browser goes to sign out there too; null where the provider has no such address. */
  end(idToken: string, back: string, state: string): Promise<string | null>;
}

/** How long the provider may take to answer, in seconds. */
const PATIENCE = 10;
/** Providers change their keys and addresses: the metadata is fetched again after so many milliseconds. */
const METADATA_LIFETIME = 3_600_000;
/** A session keeps the ID token, to sign out with. */
const MAX_TOKEN_LENGTH = 16 * 1024;

/** The addresses in metadata that browsers are sent to, or that are asked (OpenID Connect Discovery, 3). */
const USED_ADDRESSES = [
  ...['authorization_endpoint', 'token_endpoint', 'userinfo_endpoint'],
  ...['end_session_endpoint', 'jwks_uri'],
];

/** Throws where metadata sends browsers or requests to what is no web address, or to a less safe one than the provider. */
function mustBeSafe(metadata: Readonly<Record<string, unknown>>, provider: string): void {
  const protocols = provider.startsWith('http:') ? ['http:', 'https:'] : ['https:'];
  for (const name of USED_ADDRESSES) {
    const value = metadata[name];
    if (value === undefined || value === null) continue;
    const isSafe =
      typeof value === 'string' &&
      URL.canParse(value) &&
      protocols.includes(new URL(value).protocol);
    if (!isSafe)
      throw new ProviderProblem(
        `The metadata of the identity provider ${provider} has no safe "${name}".`,
      );
  }
}

/**
 * The provider at an issuer's address. Its metadata is looked up at the first sign-in (OpenID Connect
 * Discovery), and again after a failure.
 */
export function providerAt({ provider, client, secret, scope, claims }: SignInSettings): Provider {
  let found: { readonly config: Configuration; readonly at: number } | null = null;
  let asking: Promise<Configuration> | null = null;
  const discover = async (): Promise<Configuration> => {
    // The settings take http: on this machine alone, where a test provider has no certificate.
    // eslint-disable-next-line @typescript-eslint/no-deprecated
    const execute = provider.startsWith('http:') ? [allowInsecureRequests] : [];
    const config = await discovery(
      new URL(provider),
      client,
      undefined,
      secret === undefined ? None() : ClientSecretBasic(secret),
      {
        timeout: PATIENCE,
        execute,
        [customFetch]: (address, init) => boundedFetch(address, init as RequestInit),
      },
    );
    mustBeSafe(config.serverMetadata(), provider);
    found = { config, at: Date.now() };
    return config;
  };
  const known = async (): Promise<Configuration> => {
    if (found && Date.now() - found.at < METADATA_LIFETIME) return found.config;
    asking ??= discover().finally(() => (asking = null));
    try {
      return await asking;
    } catch (error) {
      // What was right an hour ago is better than nothing, until the provider answers again.
      if (found) return found.config;
      if (error instanceof ProviderProblem) throw error;
      throw new ProviderProblem(`The identity provider ${provider} can't be asked.`, {
        cause: error,
      });
    }
  };
  return {
    issuer: provider,
    begin: async (back, hint) => {
      const config = await known();
      const verifier = randomPKCECodeVerifier();
      const started = { state: randomState(), nonce: randomNonce(), verifier };
      const location = buildAuthorizationUrl(config, {
        redirect_uri: back,
        scope,
        state: started.state,
        nonce: started.nonce,
        code_challenge: await calculatePKCECodeChallenge(verifier),
        code_challenge_method: 'S256',
        ...(hint === null ? {} : { login_hint: hint, prompt: 'login' }),
      });
      return { location: location.href, started };
    },
    finish: async (current, { state, nonce, verifier }) => {
      const config = await known();
      try {
        const tokens = await authorizationCodeGrant(config, current, {
          pkceCodeVerifier: verifier,
          expectedState: state,
          expectedNonce: nonce,
          idTokenExpected: true,
        });
        const said = tokens.claims()!;
        const userInfo =
          config.serverMetadata().userinfo_endpoint === undefined
            ? {}
            : await fetchUserInfo(config, tokens.access_token, said.sub);
        const idToken = tokens.id_token!;
        if (idToken.length > MAX_TOKEN_LENGTH)
          throw new Error(`The ID token has ${idToken.length} characters.`);
        return { claims: joinClaims(said, userInfo, claims ?? {}), idToken };
      } catch (error) {
        if (error instanceof AuthorizationResponseError && CANCELLATIONS.has(error.error))
          return { cancelled: error.error };
        throw new ProviderProblem('The sign-in was not completed.', { cause: error });
      }
    },
    end: async (idToken, back, state) => {
      const config = await known();
      if (config.serverMetadata().end_session_endpoint === undefined) return null;
      return buildEndSessionUrl(config, {
        id_token_hint: idToken,
        post_logout_redirect_uri: back,
        state,
      }).href;
    },
  };
}
