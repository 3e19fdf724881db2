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
const parse = robotsParser as unknown as typeof robotsParser.default;

const MAX_PAUSE = 30_000;

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
  const rules = parse(address, answer.status === 200 ? (answer.body ?? '') : '');
  const name = USER_AGENT.split('/')[0]!;
  return {
    allows: (page) => rules.isAllowed(page, name) !== false,
    pause: Math.min((rules.getCrawlDelay(name) ?? 0) * 1000, MAX_PAUSE),
  };
}
