import type { Health } from './health.ts';
import type { SessionTimes } from '../store/sessions.ts';
import type { Rejected } from '../sign-in/token.ts';

/** A gateway as others of the service see it. */
export interface GatewayState {
  readonly site: string;
  /** Where it listens, and where visitors reach it. */
  readonly address: string;
  readonly publicAddress: string;
  readonly origin: string;
  readonly signIn: {
    readonly provider: string;
    /** Pages can be opened as any visitor. */
    readonly isTestProvider: boolean;
    readonly times: SessionTimes;
  } | null;
  /** The website's own login, whose tokens are taken; null where it has none. */
  readonly login: { readonly by: string; rejected(): Rejected } | null;
  health(): Promise<Health>;
}
