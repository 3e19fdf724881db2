import { type decisions, type model, queries } from '@kleidon/core';
import type { DraftRecord, DraftVersionWithText } from '../store/draft-versions.ts';
import type { ListedFile } from '../store/lists.ts';
import type { SiteStore } from '../store/sites.ts';
import type { RecordStore } from '../store/records.ts';
import type { SessionStore } from '../store/sessions.ts';
import type { PendingEdits } from '../store/pending-edits.ts';
import type { Checked, Checker, ToCheck } from '../check/checker.ts';
import type { Plans } from '../check/plans.ts';
import type { Check, Source, States } from '../check/states.ts';
import type { GatewayState } from '../gateway/gateway-state.ts';
import type { Probes } from '../probe/probes.ts';
import type { ShopSettings } from '../settings/shops.ts';
import type { LedgerStore } from '../store/ledger.ts';
import type { RejectedEvents } from '../store/rejected-events.ts';
import type { ProbeStore } from '../store/probes.ts';
import { patchFailed, Problem } from './problem.ts';

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
  readonly states: States;
  readonly plans: Plans;
  readonly checker: Checker;
  readonly now: () => Date;
}

/** The draft of a site. Throws `no-such-site`. */
export function draftOf({ sites }: Context, site: string): DraftRecord {
  const draft = sites.draft(site);
  if (!draft) throw noSuchSite(sites, site);
  return draft;
}

const MOST_NAMED = 5;

/** There is no such site; where there are few, which there are. */
export function noSuchSite(sites: SiteStore, site: string): Problem {
  const names = sites.list();
  const others =
    names.length === 0 || names.length > MOST_NAMED ? '' : ` Sites: ${names.join(', ')}.`;
  return new Problem('no-such-site', `There is no site "${site}".${others}`);
}

const WITH_CHANGES = 'changes-';
const VERSION = 'version-';

/** A state of a site: `draft`, `live`, the number of a release, the draft with pending changes, or a version of it. */
export function sourceOf(context: Context, site: string, state = 'draft'): Source {
  const draft = draftOf(context, site);
  const beside = (release?: number): Omit<Source, 'text'> => listsOf(context, site, release);
  if (state === 'draft') return { text: draft.text, ...beside() };
  if (state.startsWith(WITH_CHANGES)) {
    const waiting = context.pending.list(site, state.slice(WITH_CHANGES.length));
    const edits = waiting.map(({ edit }) => JSON.parse(edit) as model.Edit);
    return { text: context.plans.plan(draft.text, edits).text, ...beside() };
  }
  if (state.startsWith(VERSION)) {
    const { text, lists } = versionOf(context, site, Number(state.slice(VERSION.length)));
    return { text, ...listed(context, lists) };
  }
  const release = context.sites.findRelease(site, state === 'live' ? 'latest' : Number(state));
  if (release) return { text: release.text, ...beside(release.number) };
  throw new Problem(
    'no-such-release',
    state === 'live'
      ? `The site "${site}" has not been released yet.`
      : `The site "${site}" has no release ${state}.`,
  );
}

/** The lists beside the draft of a site, or beside a release. */
export const listsOf = (context: Context, site: string, release?: number): Omit<Source, 'text'> =>
  listed(context, context.sites.lists(site, release));

/** Lists that stand beside a site file. */
export const listed = ({ sites }: Context, lists: readonly ListedFile[]): Omit<Source, 'text'> => ({
  hashes: new Map(lists.map(({ name, hash }) => [name, hash])),
  textOf: (hash) => sites.listText(hash),
});

/** A version of the draft that is kept. Throws `no-such-version`. */
export function versionOf({ sites }: Context, site: string, version: number): DraftVersionWithText {
  const found = sites.version(site, version);
  if (found) return found;
  throw new Problem(
    'no-such-version',
    `The draft of "${site}" has no version ${version} any more.`,
  );
}

/**
 * Checks a site file before it is saved.
 * @param change.patch what is changed in it before
 * @param change.before what the file was, of which it is told what changed
 * @throws Problem `check-too-slow` where that takes too long: it would do so again each time somebody looks;
 *   `patch-failed`
 */
export async function checkedInTime(
  context: Context,
  site: string,
  { text, hashes, textOf }: Source,
  { patch = [], before = null }: Partial<Pick<ToCheck, 'patch' | 'before'>> = {},
): Promise<Checked> {
  const checked = await context.checker.check({
    text,
    patch,
    before,
    lists: [...hashes].map(([name, hash]) => [name, textOf(hash)] as const),
    file: fileOf(site),
    at: context.now().getTime(),
  });
  if (checked && 'errors' in checked) return checked;
  if (!checked) throw givenUp();
  throw patchFailed(checked);
}

const givenUp = (): Problem =>
  new Problem('check-too-slow', 'The check of the site file was given up.');

/**
 * What is wrong with a state, or looks wrong.
 * @throws Problem `check-too-slow`
 */
export async function checkOf(
  { states }: Context,
  source: Source,
  file: string,
  at: number,
): Promise<Check> {
  const check = await states.check(source, file, at);
  if (check) return check;
  throw givenUp();
}

/** What the file of a site is called in errors and findings. */
export const fileOf = (site: string): string => `${site}.site.yaml`;

/** A state of a site, prepared for deciding. Throws `site-has-errors` with all of them. */
export const preparedOf = (
  context: Context,
  site: string,
  state?: string,
): decisions.PreparedSite => preparedFrom(context, sourceOf(context, site, state), fileOf(site));

/** A site file with the lists beside it, prepared for deciding. Throws `site-has-errors` with all of them. */
export function preparedFrom(
  { states }: Context,
  source: Source,
  file: string,
): decisions.PreparedSite {
  const { prepared, errors } = states.read(source, file);
  if (prepared) return prepared;
  throw siteHasErrors(errors);
}

/** All of the errors of a site file. */
export const siteHasErrors = (errors: Check['errors']): Problem =>
  new Problem(
    'site-has-errors',
    `The site file has ${errors.length} error${errors.length === 1 ? '' : 's'}.`,
    { errors },
  );

/** A site as visitors meet it: its live release, or its draft before the first one. Null where that has errors. */
export function siteInForce(context: Context, site: string): decisions.PreparedSite | null {
  const state = context.sites.liveNumber(site) === null ? 'draft' : 'live';
  return context.states.read(sourceOf(context, site, state), fileOf(site)).prepared;
}

/** The moment that a call asks about, in milliseconds since 1970; now where it names none. */
export const momentOf = (
  { now }: Context,
  { site }: decisions.PreparedSite,
  at: string | undefined,
): number => queries.readMoment(at, site.timeZone, now().getTime());
