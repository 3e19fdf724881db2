import { createServer, type Server } from 'node:http';
import { fileURLToPath } from 'node:url';
import type { AddressInfo } from 'node:net';
import pino from 'pino';
import { availableParallelism } from 'node:os';
import { analysesIn } from './analysis/analyses.ts';
import { liveSites } from './analysis/live-sites.ts';
import { poolOf } from './analysis/pool.ts';
import { releasedSource } from './analysis/source.ts';
import { scheduledReleases } from './api/releases.ts';
import { createApp } from './api/app.ts';
import { KEPT_DELETED } from './api/sites.ts';
import { keepFacts, type Context } from './api/context.ts';
import { pageReader } from './gateway/marks/page-reader.ts';
import { probeMark } from './gateway/probe-mark.ts';
import type { GatewayState } from './gateway/gateway-state.ts';
import { startGateway, type RunningGateway } from './gateway/start.ts';
import { startProbes } from './probe/probes.ts';
import { schedulerWith } from './scheduler.ts';
import { stoppable } from './gateway/stoppable.ts';
import { readSettings, roomOf } from './settings/settings.ts';
import { sealOf } from './sign-in/sealed.ts';
import { visitorProof } from './sign-in/visitor-proof.ts';
import { makeDataFolder, openDatabase } from './store/database.ts';
import { lockFolder } from './store/folder-lock.ts';
import { pendingEdits } from './store/pending-edits.ts';
import { ledgerStore } from './store/ledger.ts';
import { rejectedEvents } from './store/rejected-events.ts';
import { probeStore } from './store/probes.ts';
import { recordStore } from './store/records.ts';
import { sessionStore } from './store/sessions.ts';
import { siteStore } from './store/sites.ts';
import { storageStore } from './store/storage.ts';

export interface ServeOptions {
  /** The folder of the database. */
  readonly data: string;
  readonly host: string;
  /** 0 takes any free port. */
  readonly port: number;
  readonly maxBody: number;
  readonly allowedHosts: readonly string[];
  readonly logLevel: string;
  /** The file of settings; none where there is no gateway. */
  readonly settings: string | null;
}

/** A service that is running. */
export interface Service {
  readonly address: string;
  readonly gateways: readonly RunningGateway[];
  /** Takes no new requests, finishes those that are under way, and closes the database. */
  close(): Promise<void>;
}

/** The CPU time of an analysis, in seconds. */
const CHECK_TIMEOUT = 20;
/** The memory of a thread of the analyses, in megabytes. */
const MEMORY = 1_024;
/** Two long analyses leave a thread for a short one. */
const FEWEST_THREADS = 3;
/** For marked pages of websites. Clients take turns, as sites do elsewhere. */
const PAGES = {
  threads: 2,
  limit: 10_000,
  memory: 768,
  mostWaiting: { ofSite: 64, ofAll: 512 },
};
const PAGE_WORKER = new URL('./page-worker.js', import.meta.url);
const ANALYSIS_WORKER = new URL('./analysis-worker.js', import.meta.url);
const MINUTE = 60_000;
const HOUR = 3_600_000;
/** How often it is looked for releases whose time has come: a look costs microseconds. */
const SECOND = 1_000;
/** How often it is written down who went on using a session. */
const SEEN_WRITTEN_EVERY = 5_000;
/** Beside `dist/service/`, where this runs. */
const CONSOLE = fileURLToPath(new URL('../../../console/dist/', import.meta.url));

/**
 * Starts the service.
 * @throws SettingsProblem, or the error of the operating system, such as EADDRINUSE where a port is taken
 */
export async function startService(options: ServeOptions): Promise<Service> {
  const settings = options.settings === null ? null : readSettings(options.settings);
  const log = pino({ level: options.logLevel }, pino.destination({ dest: 2, sync: false }));
  makeDataFolder(options.data);
  const unlock = lockFolder(options.data);
  const db = openDatabase(options.data);
  const mark = probeMark();
  const keys = {
    proof: await visitorProof(options.data, log),
    seal: sealOf(options.data),
    probe: mark,
  };
  const pool = poolOf({
    program: ANALYSIS_WORKER,
    workerData: options.data,
    threads: Math.max(FEWEST_THREADS, availableParallelism()),
    limit: (settings?.['check-timeout'] ?? CHECK_TIMEOUT) * 1000,
    memory: MEMORY,
    mostWaiting: { ofSite: 100, ofAll: 1_000 },
    log,
  });
  const pagePool = poolOf({ ...PAGES, program: PAGE_WORKER, workerData: null, log });
  const [sites, analyses] = [siteStore(db), analysesIn(pool)];
  const own = {
    sites,
    analyses,
    facts: keepFacts({ sites, analyses }),
    live: liveSites(
      sites,
      analyses,
      (site) => settings?.gateways.some((gateway) => gateway.site === site) ?? false,
      log,
    ),
    pending: pendingEdits(db),
    sessions: sessionStore(db),
    records: recordStore(db),
    probeRecords: probeStore(db),
    ledger: ledgerStore(db),
    rejectedEvents: rejectedEvents(db),
    storage: storageStore(db),
    room: roomOf(settings?.storage ?? {}),
    shops: settings?.shops ?? [],
    gateways: new Map<string, GatewayState>(),
    now: () => new Date(),
  };
  const probes = startProbes(settings?.probes ?? [], {
    ...own,
    liveSource: (site) => releasedSource({ sites }, site, 'live'),
    mark,
    log,
  });
  const context: Context = { ...own, probes };
  const scheduler = schedulerWith(log);
  // What is due already is live before anyone asks.
  const takeScheduled = scheduledReleases(context);
  await scheduler.every(SECOND, 'a scheduled release', async () => {
    for (const { site, number } of await takeScheduled())
      log.info({ site, number }, 'a scheduled release took effect');
  });
  const app = createApp({
    context,
    log,
    maxBody: options.maxBody,
    allowedHosts: [options.host, ...options.allowedHosts],
    consoleFolder: CONSOLE,
    visitorKeys: keys.proof.keys,
  });
  const server = createServer(app);
  const stop = stoppable(server);
  const gateways: RunningGateway[] = [];
  try {
    await listen(server, options);
    for (const one of settings?.gateways ?? [])
      gateways.push(
        await startGateway(one, { ...context, readPage: pageReader(pagePool) }, keys, log),
      );
  } catch (error) {
    scheduler.close();
    const open = [stop(), probes.close(), ...gateways.map((gateway) => gateway.close())];
    await Promise.all(open);
    await Promise.all([pool.close(), pagePool.close()]);
    db.close();
    unlock();
    throw error;
  }
  const { port } = server.address() as AddressInfo;
  void scheduler.every(HOUR, 'the purge of deleted sites', () => {
    for (const site of context.sites.purge(new Date(Date.now() - KEPT_DELETED)))
      log.info({ site }, 'a deleted site was purged');
  });
  void scheduler.every(MINUTE, 'giving free storage back', own.storage.giveBack);
  void scheduler.every(SEEN_WRITTEN_EVERY, 'noting who is signed in', context.sessions.writeSeen);
  const host = options.host.includes(':') ? `[${options.host}]` : options.host;
  log.info({ port, data: options.data }, 'listening');
  let closing: Promise<void> | null = null;
  return {
    address: `http://${host}:${port}`,
    gateways,
    close: () =>
      (closing ??= Promise.all([
        stop(),
        probes.close(),
        ...gateways.map((gateway) => gateway.close()),
      ]).then(async () => {
        scheduler.close();
        await Promise.all([pool.close(), pagePool.close()]);
        try {
          context.sessions.writeSeen();
        } catch (error) {
          log.warn({ err: error }, 'the last requests of sessions could not be noted');
        }
        db.close();
        unlock();
        log.info('stopped');
        log.flush();
      })),
  };
}

function listen(server: Server, { host, port }: ServeOptions): Promise<void> {
  return new Promise((resolve, reject) => {
    server.once('error', reject);
    server.listen(port, host, resolve);
  });
}
