import { parentPort, workerData } from 'node:worker_threads';
import { decisions, queries, siteFiles } from '@kleidon/core';
import {
  crawl,
  CredentialsProblem,
  probe,
  readCredentials,
  TooMany,
  WebsiteProblem,
  type Rules,
} from '@kleidon/probe';
import type { FoundDifference } from '../store/probes.ts';
import type { FromProbe, ProbeJob, Searched, Visited } from './job.ts';

/** Makes one run of a probe in a thread of its own: a website that is asked must not hold up the gateways. */

/** Milliseconds between two messages on how far it is. */
const TELL_EVERY = 500;
/** What a website writes may be as long as it likes. */
const LONGEST = 500;
const DEPTH = 50;

const job = workerData as ProbeJob;
const tell = (message: FromProbe): void => parentPort!.postMessage(message);

/** Nothing can be tried, for a reason that those who set the probe up can do something about. */
class CannotProbe extends Error {}

function prepared(): decisions.PreparedSite {
  const lists = new Map(job.lists);
  const read = siteFiles.readSite(job.text, job.file, (name) => lists.get(name) ?? null);
  if (!read.ok) throw new CannotProbe('The site file that is live has errors.');
  return decisions.prepareSite(read.site);
}

async function run(site: decisions.PreparedSite): Promise<void> {
  await mustAnswer();
  tell({ is: 'visited', visited: await visits(site) });
  if (job.search) tell({ is: 'searched', searched: await search(site, job.search) });
}

/** One failure is told as one, not as a difference of every visit. */
async function mustAnswer(): Promise<void> {
  const { website, fields, timeout } = job;
  let status: number;
  try {
    const response = await fetch(`${website}/`, {
      redirect: 'manual',
      headers: fields,
      signal: AbortSignal.timeout(timeout * 1000),
    });
    await response.body?.cancel();
    ({ status } = response);
  } catch (error) {
    const { message } = ((error as Error).cause ?? error) as Error;
    throw new CannotProbe(`${website} can't be reached: ${message || 'no answer'}.`);
  }
  if (status >= 500) throw new CannotProbe(`${website} answered ${status}.`);
}

async function visits(site: decisions.PreparedSite): Promise<Visited> {
  const { protocol, host } = site.site;
  let told = 0;
  try {
    const { agreed, differed, untried, visits } = await probe(
      {
        rules: rulesOf(site),
        requestOptions: {
          base: job.website,
          home: `${protocol}//${host}`,
          pause: job.pause,
          timeout: job.timeout,
          fields: job.fields,
        },
        under: job.under,
        visitors: job.visitors,
        testProvider: job.testProvider,
        credentials: job.credentials
          ? readCredentials(job.credentials.text, job.credentials.file)
          : new Map(),
        limit: job.limit,
        twice: true,
      },
      (done, all) => {
        if (Date.now() - told < TELL_EVERY && done < all) return;
        told = Date.now();
        tell({ is: 'progress', progress: { done, all } });
      },
    );
    return {
      agreed,
      differed,
      untried,
      reached: visits.filter(({ outcome }) => outcome === 'reach').map(({ address }) => address),
      differences: differencesOf(visits),
    };
  } catch (error) {
    if (error instanceof TooMany)
      throw new CannotProbe(
        `These are ${error.visits} visits, and ${job.limit} may be made. Name fewer visitors, or a section with "under", or allow more with "limit".`,
      );
    if (error instanceof queries.QuestionError) throw new CannotProbe(error.sentences.join(' '));
    throw error;
  }
}

const rulesOf = (site: decisions.PreparedSite): Rules => ({
  grid: ({ under, visitors }) => {
    visitors?.forEach((name) => queries.findVisitor(site, name));
    return Promise.resolve(
      decisions.grid(site, site.site.visitors, Date.now(), { under, visitors }),
    );
  },
  visit: ({ address, as }) =>
    Promise.resolve(
      decisions.visit(site, { method: 'GET', address }, queries.findVisitor(site, as), Date.now()),
    ),
});

/** A page that the website lacks differs for everyone, and is told once. */
function differencesOf(visits: readonly decisions.ComparedVisit[]): FoundDifference[] {
  return visits.flatMap(({ address, visitor, outcome, difference }): FoundDifference[] => {
    if (difference === null) return [];
    const isAbsent = outcome === 'reach' && [404, 410].includes(difference.status);
    return [
      {
        kind: isAbsent ? 'absent-page' : 'visit',
        address,
        visitor: isAbsent ? '' : visitor,
        step: short(difference.address),
        expected: short(difference.expected),
        found: short(difference.found),
        effect: difference.effect,
      },
    ];
  });
}

async function search(
  site: decisions.PreparedSite,
  { at, pages, seconds }: NonNullable<ProbeJob['search']>,
): Promise<Searched> {
  const { protocol, host } = site.site;
  try {
    const { pause, timeout } = job;
    const limits = { pages, depth: DEPTH, seconds, timeout, pause };
    const crawled = await crawl(new URL(at), limits, () => undefined, `${protocol}//${host}`);
    const found = crawled.pages.map(({ address }) => address);
    return {
      pages: found.length,
      endedBy: crawled.endedBy,
      differences: queries
        .undeclaredPages(site, found, Date.now())
        .map(({ address, outcome, status }): FoundDifference => ({
          kind: 'undeclared-page',
          address: short(address),
          visitor: '',
          step: short(address),
          expected: outcome === 'reach' ? 'open to everyone' : `${status} for guests`,
          found: 'there',
          effect: outcome === 'reach' ? 'opens' : 'other',
        })),
    };
  } catch (error) {
    if (!(error instanceof WebsiteProblem)) throw error;
    return { pages: 0, endedBy: error.message, differences: [] };
  }
}

function short(text: string): string {
  return text.length > LONGEST ? `${text.slice(0, LONGEST - 1)}…` : text;
}

try {
  await run(prepared());
} catch (error) {
  const isKnown = error instanceof CannotProbe || error instanceof CredentialsProblem;
  if (!isKnown) throw error;
  tell({ is: 'failed', because: error.message });
}
