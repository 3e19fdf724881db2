import type { Analyses } from '../analysis/analyses.ts';
import type { LiveSites } from '../analysis/live-sites.ts';
import type { SiteFacts } from '../analysis/tasks.ts';
import type { GatewayState } from '../gateway/gateway-state.ts';
import type { Probes } from '../probe/probes.ts';
import type { ShopSettings } from '../settings/shops.ts';
import type { LedgerStore } from '../store/ledger.ts';
import type { PendingEdits } from '../store/pending-edits.ts';
import type { ProbeStore } from '../store/probes.ts';
import type { RecordStore } from '../store/records.ts';
import type { RejectedEvents } from '../store/rejected-events.ts';
import type { SessionStore } from '../store/sessions.ts';
import type { SiteStore } from '../store/sites.ts';
import type { StorageStore } from '../store/storage.ts';

/** What the handlers of the API work with. */
export interface Context {
  readonly sites: SiteStore;
  readonly pending: PendingEdits;
  readonly sessions: SessionStore;
  readonly records: RecordStore;
  /** The gateways that run, by the site that they are for. */
  readonly gateways: Map<string, GatewayState>;
  readonly probes: Probes;
  readonly ledger: LedgerStore;
  readonly rejectedEvents: RejectedEvents;
  /** The shops whose events are taken. */
  readonly shops: readonly ShopSettings[];
  readonly probeRecords: ProbeStore;
  readonly analyses: Analyses;
  readonly live: LiveSites;
  /** What purchases of a site are counted by: of its live release, or its draft before the first one. */
  readonly facts: (site: string) => Promise<SiteFacts | null>;
  readonly storage: StorageStore;
  /** How much of the disk may be used, in bytes. */
  readonly room: { readonly ofSite: number; readonly ofAll: number };
  readonly now: () => Date;
}

/** Keeps what purchases are counted by, for as long as the site stays the same. */
export function keepFacts({
  sites,
  analyses,
}: Pick<Context, 'sites' | 'analyses'>): Context['facts'] {
  const kept = new Map<
    string,
    { readonly of: string; readonly facts: Promise<SiteFacts | null> }
  >();
  return (site) => {
    const summary = sites.summary(site);
    if (!summary) return Promise.resolve(null);
    const { number, releasedAt, version, savedAt } = summary;
    const of = number === null ? `draft ${version} ${savedAt}` : `live ${number} ${releasedAt}`;
    const known = kept.get(site);
    if (known?.of === of) return known.facts;
    const state = number === null ? 'draft' : 'live';
    const facts = analyses.task('facts', site, { site, state });
    kept.set(site, { of, facts });
    // What failed is tried again.
    facts.catch(() => kept.delete(site));
    return facts;
  };
}
