import { randomUUID } from 'node:crypto';
import type { Db } from './database.ts';

/** What differs between a website and the rules: a visit, a page without a rule, or a page that is lacking. */
export const DIFFERENCE_KINDS = ['visit', 'undeclared-page', 'absent-page'] as const;
export type DifferenceKind = (typeof DIFFERENCE_KINDS)[number];
type Effect = 'opens' | 'closes' | 'other';

/** A run of a probe that came to an end. */
export interface ProbeRun {
  readonly number: number;
  readonly website: string;
  readonly release: number;
  readonly agreed: number;
  readonly differed: number;
  readonly untried: readonly {
    readonly visitor: string;
    readonly because: string;
    readonly failed: boolean;
  }[];
  /** Pages that were found on the website; null where none were looked for. */
  readonly pages: number | null;
  /** Why the search for pages ended before its end; null where it did not. */
  readonly endedBy: string | null;
  /** Why nothing, or not everything, could be tried; null where it was. */
  readonly failure: string | null;
  readonly startedAt: string;
  readonly endedAt: string;
}

/** Something that differs, as one run found it. */
export interface FoundDifference {
  readonly kind: DifferenceKind;
  readonly address: string;
  /** Whose visit differs; empty where it is nobody's. */
  readonly visitor: string;
  /** The address of the visit at which it differs. */
  readonly step: string;
  readonly expected: string;
  readonly found: string;
  readonly effect: Effect;
}

/** Something that differs, with when it was seen first and last. */
export interface ProbeDifference extends FoundDifference {
  readonly firstAt: string;
  readonly lastAt: string;
  /** When it was seen to differ no more; null where it still does. */
  readonly endedAt: string | null;
}

/** What a run found, and how far it looked. */
export interface Findings {
  readonly run: Omit<ProbeRun, 'number'>;
  readonly differences: readonly FoundDifference[];
  /** Whether a run that does not find a difference again has shown that there is none any more. */
  readonly isSettled: (
    difference: Pick<FoundDifference, 'kind' | 'address' | 'visitor'>,
  ) => boolean;
}

/** What a run changed: what differs since then, and what does no more. */
export interface Recorded {
  readonly run: ProbeRun;
  readonly begun: readonly ProbeDifference[];
  readonly ended: readonly ProbeDifference[];
  readonly open: number;
}

/** Something that somebody else's server is told. */
export interface WebhookMessage {
  readonly id: string;
  readonly site: string;
  readonly body: string;
  readonly madeAt: string;
  readonly attempts: number;
  readonly nextAt: string | null;
  readonly deliveredAt: string | null;
  /** What the last attempt came to; null before the first. */
  readonly answer: string | null;
}

/** Which differences are wanted. */
export interface DifferenceFilter {
  readonly isOpen: boolean;
  readonly search: string;
  readonly skip: number;
  readonly limit: number;
}

/** The runs of probes, what differs, and who is told. */
export interface ProbeStore {
  /**
   * Records a run, and keeps what differs up to date.
   * @param message makes what is told of it; null where nothing is
   */
  record(
    site: string,
    findings: Findings,
    message: (recorded: Recorded) => string | null,
  ): Recorded;
  runs(site: string, limit: number): ProbeRun[];
  openCount(site: string): number;
  differences(
    site: string,
    filter: DifferenceFilter,
  ): { readonly found: number; readonly differences: ProbeDifference[] };
  /** Messages of a site that are to be delivered by now. */
  due(site: string, now: Date): WebhookMessage[];
  /** The messages of a site, the last first. */
  messages(site: string, limit: number): WebhookMessage[];
  /** Notes an attempt to deliver; `nextAt` is null where there is no other. */
  attempted(
    id: string,
    attempt: {
      readonly answer: string;
      readonly isDelivered: boolean;
      readonly nextAt: Date | null;
    },
    at: Date,
  ): void;
}

const KEPT_RUNS = 200;
const KEPT_MESSAGES = 200;
/** What differs no more is kept this long. */
const KEPT_ENDED = 90 * 86_400_000;
/** A website where nearly everything differs must not fill the disk. */
const MOST_DIFFERENCES = 20_000;

const DIFFERENCE = `kind, address, visitor, step, expected, found, effect,
  first_at as firstAt, last_at as lastAt, ended_at as endedAt`;
const MESSAGE = `id, site_id as site, body, made_at as madeAt, attempts, next_at as nextAt,
  delivered_at as deliveredAt, answer`;

interface RunRow extends Omit<ProbeRun, 'untried'> {
  readonly untried: string;
}

const keyOf = ({ kind, address, visitor }: Pick<FoundDifference, 'kind' | 'address' | 'visitor'>) =>
  JSON.stringify([kind, address, visitor]);

/** The statements on probes. */
export function probeStore(db: Db): ProbeStore {
  const addRun = db.prepare<(string | number | null)[], { number: number }>(
    `insert into probe_run (site_id, number, website, release, agreed, differed, untried, pages,
       ended_by, failure, started_at, ended_at)
     values (?, (select coalesce(max(number), 0) + 1 from probe_run where site_id = ?),
       ?, ?, ?, ?, ?, ?, ?, ?, ?, ?) returning number`,
  );
  const oldRuns = db.prepare('delete from probe_run where site_id = ? and number <= ?');
  const runs = db.prepare<[string, number], RunRow>(
    `select number, website, release, agreed, differed, untried, pages, ended_by as endedBy, failure,
       started_at as startedAt, ended_at as endedAt
     from probe_run where site_id = ? order by number desc limit ?`,
  );
  const open = db.prepare<[string], ProbeDifference>(
    `select ${DIFFERENCE} from probe_difference where site_id = ? and ended_at is null`,
  );
  const openCount = db.prepare<[string], { count: number }>(
    'select count(*) as count from probe_difference where site_id = ? and ended_at is null',
  );
  const begin = db.prepare(
    `insert into probe_difference (site_id, kind, address, visitor, step, expected, found, effect,
       first_at, last_at) values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`,
  );
  const AT = 'site_id = ? and kind = ? and address = ? and visitor = ? and ended_at is null';
  const again = db.prepare(
    `update probe_difference set step = ?, expected = ?, found = ?, effect = ?, last_at = ? where ${AT}`,
  );
  const end = db.prepare(`update probe_difference set ended_at = ? where ${AT}`);
  const oldDifferences = db.prepare(
    'delete from probe_difference where site_id = ? and ended_at < ?',
  );
  const FITS = `site_id = ? and (ended_at is null) = ? and instr(lower(address || ' ' || visitor), ?) > 0`;
  const count = db.prepare<[string, number, string], { count: number }>(
    `select count(*) as count from probe_difference where ${FITS}`,
  );
  const list = db.prepare<[string, number, string, number, number], ProbeDifference>(
    `select ${DIFFERENCE} from probe_difference where ${FITS}
     order by coalesce(ended_at, '9') desc, effect = 'opens' desc, effect = 'closes' desc,
       first_at desc, id limit ? offset ?`,
  );
  const addMessage = db.prepare(
    'insert into webhook_message (id, site_id, body, made_at, next_at) values (?, ?, ?, ?, ?)',
  );
  const due = db.prepare<[string, string], WebhookMessage>(
    `select ${MESSAGE} from webhook_message where site_id = ? and next_at <= ? order by made_at`,
  );
  const messages = db.prepare<[string, number], WebhookMessage>(
    `select ${MESSAGE} from webhook_message where site_id = ? order by made_at desc limit ?`,
  );
  const oldMessages = db.prepare(
    `delete from webhook_message where site_id = ? and next_at is null and id not in
       (select id from webhook_message where site_id = ? order by made_at desc limit ?)`,
  );
  const attempted = db.prepare(
    `update webhook_message set attempts = attempts + 1, answer = ?, next_at = ?,
       delivered_at = case when ? then ? end where id = ?`,
  );

  return {
    record: db.transaction<ProbeStore['record']>(
      (site, { run, differences, isSettled }, message) => {
        const at = run.endedAt;
        const { number } = addRun.get(
          site,
          site,
          run.website,
          run.release,
          run.agreed,
          run.differed,
          JSON.stringify(run.untried),
          run.pages,
          run.endedBy,
          run.failure,
          run.startedAt,
          at,
        )!;
        const known = new Map(open.all(site).map((one) => [keyOf(one), one]));
        const begun: ProbeDifference[] = [];
        const seen = new Set<string>();
        for (const one of differences) {
          const { kind, address, visitor, step, expected, found, effect } = one;
          const key = keyOf(one);
          if (seen.has(key)) continue;
          seen.add(key);
          if (known.has(key))
            again.run(step, expected, found, effect, at, site, kind, address, visitor);
          else if (known.size + begun.length < MOST_DIFFERENCES) {
            begin.run(site, kind, address, visitor, step, expected, found, effect, at, at);
            begun.push({ ...one, firstAt: at, lastAt: at, endedAt: null });
          }
        }
        const ended = [...known.values()].filter((one) => !seen.has(keyOf(one)) && isSettled(one));
        for (const { kind, address, visitor } of ended) end.run(at, site, kind, address, visitor);
        oldRuns.run(site, number - KEPT_RUNS);
        oldDifferences.run(site, new Date(Date.parse(at) - KEPT_ENDED).toISOString());
        const recorded: Recorded = {
          run: { ...run, number },
          begun,
          ended: ended.map((one) => ({ ...one, endedAt: at })),
          open: known.size + begun.length - ended.length,
        };
        const body = message(recorded);
        if (body !== null) addMessage.run(`msg_${randomUUID()}`, site, body, at, at);
        oldMessages.run(site, site, KEPT_MESSAGES);
        return recorded;
      },
    ),
    runs: (site, limit) =>
      runs.all(site, limit).map((row) => ({
        ...row,
        untried: JSON.parse(row.untried) as ProbeRun['untried'],
      })),
    openCount: (site) => openCount.get(site)!.count,
    differences: (site, { isOpen, search, skip, limit }) => {
      const wanted = [site, Number(isOpen), search.toLowerCase()] as const;
      return {
        found: count.get(...wanted)!.count,
        differences: list.all(...wanted, limit, skip),
      };
    },
    due: (site, now) => due.all(site, now.toISOString()),
    messages: (site, limit) => messages.all(site, limit),
    attempted: (id, { answer, isDelivered, nextAt }, at) =>
      void attempted.run(
        answer,
        nextAt?.toISOString() ?? null,
        Number(isDelivered),
        at.toISOString(),
        id,
      ),
  };
}
