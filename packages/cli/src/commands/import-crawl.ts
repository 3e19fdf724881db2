import { Option, type Command } from 'commander';
import { proposals } from '@kleidon/core';
import type { Crawled, Limits, Progress } from '@kleidon/probe';
import { EXIT, Stop } from '../exit.ts';
import { wholeNumber } from '../options.ts';
import { showProgress } from '../output/progress.ts';
import { count } from '../output/style.ts';
import { propose, withProposal, type ProposalOptions } from '../proposal.ts';
import { preparedFrom } from '../source/of-file.ts';
import { newSiteFile, targetFrom, type Target } from '../target.ts';

interface CrawlOptions extends ProposalOptions {
  readonly maxPages: number;
  readonly maxDepth: number;
  readonly maxTime: number;
  readonly pause: number;
}

/** `kleidon import crawl`: the pages that a walk through a running site finds. */
export function addImportCrawl(imports: Command): void {
  withProposal(imports.command('crawl'))
    .description('walk a running site, and propose its pages, files and menus')
    .argument('<address>', 'where to begin, such as https://www.example/')
    .addOption(limit('--max-pages <number>', 'how many pages at most', 5000, 100_000))
    .addOption(limit('--max-depth <links>', 'how many links from the first page at most', 20, 1000))
    .addOption(limit('--max-time <seconds>', 'how long at most', 900, 86_400))
    .addOption(
      new Option('--pause <milliseconds>', 'how long to wait between two requests')
        .argParser(wholeNumber(0, 60_000))
        .default(100),
    )
    .addHelpText(
      'after',
      `
It stays on the host, asks one thing at a time and with GET alone, and honours robots.txt. Addresses
are taken over as paths, so that a copy of the site on another host can be walked. A page that asks
for a sign-in is proposed too: it is there. What the site file has already is kept as it is; one that is not there yet is
begun, and leaves what it does not name to the website (undeclared: website).

Examples:
  kleidon import crawl https://www.example/ --file www.site.yaml
  kleidon import crawl http://127.0.0.1:8080/ --file www.site.yaml --pause 0 --max-pages 500 --write`,
    )
    .action(async (address: string, options: CrawlOptions) => {
      if (!/^https?:\/\//i.test(address) || !URL.canParse(address))
        throw new Stop(EXIT.wrongUse, `"${address}" is no http(s) address.`);
      const start = new URL(address);
      start.hash = '';
      const target = await targetFrom(options, newSiteFile(start));
      preparedFrom(target);
      // A fifth of the command's code: only what asks websites loads it.
      const { crawl, WebsiteProblem } = await import('@kleidon/probe');
      const progress = showProgress();
      const crawled = await crawl(start, limitsOf(options), (now) => progress.say(inWords(now)))
        .catch((error: unknown) => {
          if (!(error instanceof WebsiteProblem)) throw error;
          throw new Stop(error.isUnreachable ? EXIT.unreachable : EXIT.failed, error.message);
        })
        .finally(() => progress.end());
      const named = withName(target, start, crawled);
      const proposal = proposals.proposeCrawl(preparedFrom(named), crawled);
      await propose(named, withFindings(proposal, crawled), options, notesOf(crawled));
    });
}

/** Seconds that one answer may take. */
const TIMEOUT = 20;

const limit = (flags: string, text: string, usual: number, most: number): Option =>
  new Option(flags, text).argParser(wholeNumber(1, most)).default(usual);

const limitsOf = ({ maxPages, maxDepth, maxTime, pause }: CrawlOptions): Limits => ({
  pages: maxPages,
  depth: maxDepth,
  seconds: maxTime,
  timeout: TIMEOUT,
  pause,
});

/** A site file that is begun here has the name that the website gives itself. */
function withName(target: Target, start: URL, crawled: Crawled): Target {
  const name = proposals.nameOfWebsite(crawled);
  const isNew = target.text === newSiteFile(start);
  if (!isNew || name === null) return target;
  return { ...target, text: newSiteFile(start, name) };
}

/** For those who read JSON: what the crawl saw besides pages. */
const withFindings = (
  proposal: proposals.Proposal,
  { broken, disallowed, endedBy }: Crawled,
): proposals.Proposal & Pick<Crawled, 'broken' | 'disallowed' | 'endedBy'> => ({
  ...proposal,
  broken,
  disallowed,
  endedBy,
});

function notesOf({ broken, disallowed, endedBy }: Crawled): string[] {
  return [
    ...broken.map(
      ({ address, answer, linkedFrom }) =>
        `? ${address} answered ${answer}${linkedFrom === null ? '' : `, and ${linkedFrom} links to it`}`,
    ),
    ...(disallowed > 0
      ? [`${count(disallowed, 'address', 'addresses')} left out for robots.txt`]
      : []),
    ...(endedBy === null ? [] : [`It ended at ${endedBy}; there may be more.`]),
  ];
}

const inWords = ({ requests, found, waiting }: Progress): string =>
  `${found} pages found, ${requests} requested, ${waiting} to go`;
