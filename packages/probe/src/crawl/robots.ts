import robotsParser from 'robots-parser';
import { WebsiteProblem } from '../website-problem.ts';
import { ask, USER_AGENT } from './ask.ts';

/** What a site asks of those who walk it (RFC 9309). */
export interface Robots {
  allows(address: string): boolean;
  /** Milliseconds to wait between requests, at least. */
  readonly pause: number;
}

// The package says that it has a default export; in truth it is the function itself.
const parse = robotsParser as unknown as (
  address: string,
  text: string,
) => {
  isAllowed(page: string, name: string): boolean | undefined;
  getCrawlDelay(name: string): number | undefined;
};

const MAX_PAUSE = 30_000;
/** As many rules as a crawler must be able to take are about 10,000: 500 KiB (RFC 9309, 2.5). */
const MOST_RULES = 10_000;
/** A rule with more of them costs as much as thousands of others. */
const MOST_WILDCARDS = 20;

/**
 * Reads the robots.txt of a host. One that is not there allows everything (RFC 9309, 2.3.1.3); where
 * the server fails to answer, nothing is allowed (2.3.1.4).
 *
 * @param timeout how long the answer may take, in seconds
 * @throws WebsiteProblem where nothing may be read
 */
export async function robotsOf(origin: string, timeout: number): Promise<Robots> {
  const address = `${origin}/robots.txt`;
  const answer = await ask(address, 'text', timeout);
  if (answer.failure !== null)
    throw new WebsiteProblem(`${origin} can't be reached: ${answer.failure}.`, true);
  if (answer.status >= 500) {
    throw new WebsiteProblem(
      `${address} answered ${answer.status}; a site that can't say what may be read is left alone (RFC 9309).`,
      false,
    );
  }
  const rules = parse(address, answer.status === 200 ? bounded(answer.body ?? '', address) : '');
  const name = USER_AGENT.split('/')[0]!;
  return {
    allows: (page) => rules.isAllowed(page, name) !== false,
    pause: Math.min((rules.getCrawlDelay(name) ?? 0) * 1000, MAX_PAUSE),
  };
}

/**
 * Rules that cost little. One with too many wildcards excludes what its beginning excludes, or allows nothing.
 *
 * @throws WebsiteProblem where there are too many rules
 */
function bounded(text: string, address: string): string {
  const lines = text.split(/\r\n|\r|\n/);
  if (lines.filter((line) => /^\s*[^#\s]/.test(line)).length > MOST_RULES)
    throw new WebsiteProblem(
      `${address} has more than ${MOST_RULES} rules; a site whose rules can't be read is left alone.`,
      false,
    );
  return lines
    .map((line) => {
      const pieces = line.split('*', MOST_WILDCARDS + 2);
      if (pieces.length <= MOST_WILDCARDS + 1) return line;
      return /^\s*allow\b/i.test(line) ? '' : `${pieces.slice(0, MOST_WILDCARDS).join('*')}*`;
    })
    .join('\n');
}
