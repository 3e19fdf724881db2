import type { Db } from './database.ts';
import type { ListedFile } from './lists.ts';

/** A numbered state of a site file that is or was live; it never changes. */
export interface ListedRelease {
  readonly site: string;
  readonly number: number;
  readonly note: string;
  /** Why it was released although it breaks guarantees; null where it breaks none. */
  readonly override: string | null;
  readonly draftVersion: number;
  readonly releasedAt: string;
  /** The number of the release that it makes live again; null for one of a draft. */
  readonly restores: number | null;
  /** The time that was set for it; null where it took effect at once. */
  readonly scheduledFor: string | null;
  /** What it changed for whom; null where that was not worked out. */
  readonly says: readonly string[] | null;
}

export interface ReleaseRecord extends ListedRelease {
  readonly text: string;
}

/** A release that takes effect at a set time; what it makes live is settled already. */
export interface ScheduledRelease {
  readonly site: string;
  readonly note: string;
  readonly override: string | null;
  readonly draftVersion: number;
  readonly takesEffectAt: string;
  readonly scheduledAt: string;
}

export interface ScheduledText extends ScheduledRelease {
  readonly text: string;
}

/** What is said of a release when it is made. */
export type WhyReleased = Pick<ListedRelease, 'note' | 'override' | 'says'>;

/** Releases as they stand in the database: those that were made, and one for each site that is to be. */
export interface ReleaseStore {
  /** Makes the draft live, within the transaction of the caller, who has checked its version. */
  releaseDraft(site: string, why: WhyReleased, at: Date): ReleaseRecord;
  /** Makes an earlier release live again, as a new one; null where there is none. */
  restoreRelease(site: string, number: number, why: WhyReleased, at: Date): ReleaseRecord | null;
  /** The releases of a site, the latest first; their texts stay where they are. */
  releases(site: string): ListedRelease[];
  /** The number of the release that is live; null where nothing was released. */
  liveNumber(site: string): number | null;
  /** One release, or the latest. */
  findRelease(site: string, number: number | 'latest'): ReleaseRecord | null;
  /** Settles that the draft is made live at a time, within the transaction of the caller; whether none was before. */
  scheduleDraft(
    site: string,
    why: Omit<WhyReleased, 'says'>,
    takesEffectAt: Date,
    at: Date,
  ): boolean;
  scheduled(site: string): ScheduledText | null;
  scheduledLists(site: string): ListedFile[];
  /** Whether there was one to cancel. */
  cancelScheduled(site: string): boolean;
  /** The sites with a release whose time has come. */
  due(now: Date): string[];
  /** Makes the scheduled release of a site live, once; null where it was made or cancelled before. */
  releaseScheduled(site: string, says: WhyReleased['says'], at: Date): ReleaseRecord | null;
  /** Forgets which release is live, of a site that was deleted or restored. */
  forgetLive(site: string): void;
}

const IS_THERE = 'site_id in (select id from site where deleted_at is null)';
const LISTED_RELEASE = `site_id as site, number, note, override, draft_version as draftVersion,
  released_at as releasedAt, restores, scheduled_for as scheduledFor, says`;
const RELEASE = `${LISTED_RELEASE}, text`;
const SCHEDULED = `site_id as site, text, note, override, draft_version as draftVersion,
  takes_effect_at as takesEffectAt, scheduled_at as scheduledAt`;

type Row<T extends ListedRelease> = Omit<T, 'says'> & { readonly says: string | null };

const read = <T extends ListedRelease>(row: Row<T>): T =>
  ({ ...row, says: row.says === null ? null : (JSON.parse(row.says) as string[]) }) as T & Row<T>;

/** The statements on releases. */
export function releaseStore(db: Db): ReleaseStore {
  const add = db.prepare<unknown[], Row<ReleaseRecord>>(
    `insert into release (site_id, number, text, note, override, draft_version, released_at, restores,
       scheduled_for, says)
     values ($site, (select coalesce(max(number), 0) + 1 from release where site_id = $site), $text,
       $note, $override, $draftVersion, $releasedAt, $restores, $scheduledFor, $says)
     returning ${RELEASE}`,
  );
  const all = db.prepare<[string], Row<ListedRelease>>(
    `select ${LISTED_RELEASE} from release where site_id = ? order by number desc`,
  );
  const one = db.prepare<[string, number], Row<ReleaseRecord>>(
    `select ${RELEASE} from release where site_id = ? and number = ?`,
  );
  const latest = db.prepare<[string], Row<ReleaseRecord>>(
    `select ${RELEASE} from release where site_id = ? order by number desc limit 1`,
  );
  const lastNumber = db.prepare<[string], { number: number | null }>(
    `select max(number) as number from release where site_id = ? and ${IS_THERE}`,
  );
  const draft = db.prepare<[string], { text: string; version: number }>(
    'select text, version from draft where site_id = ?',
  );
  const copyLists = (from: string, condition: string) =>
    db.prepare(
      `insert into release_list (site_id, number, name, hash)
       select site_id, $number, name, hash from ${from} where site_id = $site${condition}`,
    );
  const listsOfDraft = copyLists('draft_list', '');
  const listsOfRelease = copyLists('release_list', ' and number = $restores');
  const listsOfScheduled = copyLists('scheduled_release_list', '');
  const schedule = db.prepare(
    `insert into scheduled_release (site_id, text, note, override, draft_version, takes_effect_at,
       scheduled_at)
     values ($site, $text, $note, $override, $draftVersion, $takesEffectAt, $scheduledAt)
     on conflict do nothing`,
  );
  const scheduleLists = db.prepare(
    `insert into scheduled_release_list (site_id, name, hash)
     select site_id, name, hash from draft_list where site_id = ?`,
  );
  const scheduled = db.prepare<[string], ScheduledText>(
    `select ${SCHEDULED} from scheduled_release where site_id = ? and ${IS_THERE}`,
  );
  const scheduledLists = db.prepare<[string], ListedFile>(
    'select name, hash from scheduled_release_list where site_id = ? order by name',
  );
  const unschedule = [
    'delete from scheduled_release_list where site_id = ?',
    'delete from scheduled_release where site_id = ?',
  ].map((statement) => db.prepare<[string]>(statement));
  const due = db.prepare<[string], { site: string }>(
    `select site_id as site from scheduled_release where takes_effect_at <= ? and ${IS_THERE}`,
  );
  const removeScheduled = (site: string): boolean =>
    unschedule.map((statement) => statement.run(site).changes).at(-1)! > 0;

  /** A gateway asks at each request; only a release changes it. */
  const live = new Map<string, number | null>();
  const release = (
    site: string,
    { says, ...rest }: WhyReleased & Pick<ReleaseRecord, 'text' | 'draftVersion'>,
    at: Date,
    more: Partial<Pick<ListedRelease, 'restores' | 'scheduledFor'>> = {},
  ): ReleaseRecord => {
    const values = { site, ...rest, restores: null, scheduledFor: null, ...more };
    const released = add.get({
      ...values,
      releasedAt: at.toISOString(),
      says: says === null ? null : JSON.stringify(says),
    })!;
    return read(released);
  };

  return {
    releaseDraft: (site, why, at) => {
      const { text, version } = draft.get(site)!;
      const released = release(site, { ...why, text, draftVersion: version }, at);
      listsOfDraft.run({ site, number: released.number });
      live.delete(site);
      return released;
    },
    restoreRelease: db.transaction((site: string, restores: number, why: WhyReleased, at: Date) => {
      const earlier = one.get(site, restores);
      if (!earlier) return null;
      const { text, draftVersion } = earlier;
      const released = release(site, { ...why, text, draftVersion }, at, { restores });
      listsOfRelease.run({ site, number: released.number, restores });
      live.delete(site);
      return released;
    }),
    releases: (site) => all.all(site).map((row) => read<ListedRelease>(row)),
    liveNumber: (site) => {
      let number = live.get(site);
      if (number === undefined) live.set(site, (number = lastNumber.get(site)!.number));
      return number;
    },
    findRelease: (site, number) => {
      const row = number === 'latest' ? latest.get(site) : one.get(site, number);
      return row ? read<ReleaseRecord>(row) : null;
    },
    scheduleDraft: (site, { note, override }, takesEffectAt, at) => {
      const { text, version } = draft.get(site)!;
      const { changes } = schedule.run({
        ...{ site, text, note, override, draftVersion: version },
        takesEffectAt: takesEffectAt.toISOString(),
        scheduledAt: at.toISOString(),
      });
      if (changes > 0) scheduleLists.run(site);
      return changes > 0;
    },
    scheduled: (site) => scheduled.get(site) ?? null,
    scheduledLists: (site) => scheduledLists.all(site),
    cancelScheduled: db.transaction(removeScheduled),
    due: (now) => due.all(now.toISOString()).map(({ site }) => site),
    releaseScheduled: db.transaction((site: string, says: WhyReleased['says'], at: Date) => {
      const waiting = scheduled.get(site);
      if (!waiting) return null;
      const { text, note, override, draftVersion, takesEffectAt } = waiting;
      const released = release(site, { text, note, override, draftVersion, says }, at, {
        scheduledFor: takesEffectAt,
      });
      listsOfScheduled.run({ site, number: released.number });
      removeScheduled(site);
      live.delete(site);
      return released;
    }),
    forgetLive: (site) => void live.delete(site),
  };
}
