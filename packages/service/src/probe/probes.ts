import { readFileSync } from 'node:fs';
import type { Logger } from 'pino';
import type { Source } from '../analysis/states.ts';
import type { GatewayState } from '../gateway/gateway-state.ts';
import type { ProbeMark } from '../gateway/probe-mark.ts';
import type { ProbeSettings } from '../settings/probes.ts';
import type { ProbeStore } from '../store/probes.ts';
import type { SiteStore } from '../store/sites.ts';
import type { ProbeJob, ProbeProgress } from './job.ts';
import { messageOf } from './message.ts';
import { recordOf } from './record-of.ts';
import { runProbe, type ProbeResult, type RunningProbe } from './run-probe.ts';
import { deliver } from './webhook.ts';

/** What the probes of a service need of it. */
export interface ProbeContext {
  readonly sites: Pick<SiteStore, 'liveNumber'>;
  readonly probeRecords: ProbeStore;
  readonly gateways: ReadonlyMap<string, GatewayState>;
  /** The site file that is live, with the lists beside it. */
  readonly liveSource: (site: string) => Source;
  readonly mark: ProbeMark;
  readonly now: () => Date;
  readonly log: Logger;
}

/** A probe as it stands. */
export interface ProbeState {
  readonly website: string;
  /** Milliseconds from one run to the next. */
  readonly every: number;
  /** When the next run begins; null where one goes on, or nothing is released. */
  readonly nextAt: Date | null;
  /** null where no run goes on. */
  readonly running: ProbeProgress | null;
  /** Where what differs is told; null where it is nowhere. */
  readonly webhook: string | null;
}

/** The probes that a service makes by itself. */
export interface Probes {
  /** null where the settings name none for this site. */
  state(site: string): ProbeState | null;
  /** Begins a run now, unless one goes on. @returns whether there is a probe, and something is released */
  begin(site: string): boolean;
  close(): Promise<void>;
}

/** How often it is looked for what is due: a look costs microseconds. */
const TICK = 1000;
/** No run takes longer than this, in milliseconds. */
const LONGEST = 6 * 3_600_000;
/** After a run that could not be recorded, as on a full disk, no other begins for so many milliseconds. */
const REST = 5 * 60_000;

/** Starts the probes that the settings name. */
export function startProbes(settings: readonly ProbeSettings[], context: ProbeContext): Probes {
  const bySite = new Map(settings.map((one) => [one.site, probeOfSite(one, context)]));
  const tick = (): void => {
    for (const probe of bySite.values()) probe.tick();
  };
  const timer = setInterval(tick, TICK);
  timer.unref();
  return {
    state: (site) => bySite.get(site)?.state() ?? null,
    begin: (site) => bySite.get(site)?.begin() ?? false,
    close: async () => {
      clearInterval(timer);
      await Promise.all([...bySite.values()].map((probe) => probe.close()));
    },
  };
}

interface ProbeOfSite {
  tick(): void;
  state(): ProbeState;
  begin(): boolean;
  close(): Promise<void>;
}

function probeOfSite(settings: ProbeSettings, context: ProbeContext): ProbeOfSite {
  const { site, every } = settings;
  const { sites, probeRecords: probes, now, log } = context;
  let running: RunningProbe | null = null;
  let recording: Promise<void> = Promise.resolve();
  let delivering: Promise<void> | null = null;
  let isClosed = false;
  let restsUntil = 0;

  /** The next run: after the time that the settings say, and at once where another release is live. */
  const nextAt = (): Date | null => {
    const live = sites.liveNumber(site);
    if (live === null || running || websiteOf(settings, context) === '') return null;
    const [last] = probes.runs(site, 1);
    const due = last?.release === live ? Date.parse(last.startedAt) + every : now().getTime();
    return new Date(Math.max(due, restsUntil));
  };

  const begin = (): boolean => {
    const live = sites.liveNumber(site);
    if (live === null) return false;
    if (running || isClosed) return true;
    const startedAt = now();
    const website = websiteOf(settings, context);
    let result: Promise<ProbeResult>;
    try {
      const run = runProbe(jobOf(settings, context, website), Math.min(every, LONGEST));
      running = run;
      ({ result } = run);
    } catch (error) {
      const failure = (error as Error).message;
      result = Promise.resolve({ visited: null, searched: null, failure });
    }
    recording = result
      .then((done) => {
        running = null;
        // What other rules said while it went on is not what this run compared with.
        if (isClosed || sites.liveNumber(site) !== live) return;
        const before = probes.runs(site, 1)[0] ?? null;
        const found = recordOf(settings, done, {
          website,
          release: live,
          startedAt,
          endedAt: now(),
        });
        const { run, begun, ended, open } = probes.record(site, found, (recorded) =>
          settings.webhook ? messageOf(site, recorded, before) : null,
        );
        const counts = { begun: begun.length, ended: ended.length, open };
        if (run.failure === null) log.info({ site, run: run.number, ...counts }, 'probed');
        else log.warn({ site, run: run.number, why: run.failure, ...counts }, 'a probe failed');
      })
      .catch((error: unknown) => {
        restsUntil = now().getTime() + REST;
        log.error({ site, err: error }, 'a probe could not be recorded');
      });
    return true;
  };

  const deliverDue = async (): Promise<void> => {
    const { webhook } = settings;
    if (!webhook) return;
    for (const message of probes.due(site, now())) {
      const { isDelivered, answer, nextAt: next } = await deliver(message, webhook, now());
      if (isClosed) return;
      probes.attempted(message.id, { isDelivered, answer, nextAt: next }, now());
      if (!isDelivered)
        log.warn({ site, message: message.id, answer, nextAt: next }, 'a webhook was not taken');
    }
  };

  return {
    tick: () => {
      try {
        const next = nextAt();
        if (next !== null && next <= now()) begin();
        delivering ??= deliverDue()
          .catch((error: unknown) => log.error({ site, err: error }, 'a webhook failed'))
          .finally(() => (delivering = null));
      } catch (error) {
        log.error({ site, err: error }, 'a probe could not begin; it is tried again');
      }
    },
    state: () => ({
      website: websiteOf(settings, context),
      every,
      nextAt: nextAt(),
      running: running ? (running.progress() ?? { done: 0, all: 0 }) : null,
      webhook: settings.webhook?.address ?? null,
    }),
    begin,
    close: async () => {
      isClosed = true;
      running?.stop('The service stopped.');
      await recording;
    },
  };
}

/** Where the website is; through the gateway of the site where nothing else is said. */
function websiteOf({ site, website }: ProbeSettings, { gateways }: ProbeContext): string {
  return website ?? gateways.get(site)?.publicAddress ?? '';
}

function jobOf(settings: ProbeSettings, context: ProbeContext, website: string): ProbeJob {
  const { site, under, visitors, pause, timeout, limit, pages, signIn, every } = settings;
  const { text, hashes, textOf } = context.liveSource(site);
  const gateway = context.gateways.get(site);
  const isOwn = gateway?.publicAddress === website;
  // Behind the gateway the website shows everything that it has.
  const at = isOwn ? gateway.origin : website;
  return {
    text,
    file: `${site}.site.yaml`,
    lists: [...hashes].map(([name, hash]) => [name, textOf(hash)] as const),
    website,
    fields: isOwn ? context.mark.fields : {},
    testProvider: isOwn && gateway.signIn?.isTestProvider ? gateway.signIn.provider : null,
    credentials: signIn === undefined ? null : { text: readFileSync(signIn, 'utf8'), file: signIn },
    under,
    visitors,
    pause,
    timeout,
    limit,
    search:
      pages === 0 ? null : { at, pages, seconds: Math.floor(Math.min(every, LONGEST) / 2000) },
  };
}
