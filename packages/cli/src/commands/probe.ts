import { Option, type Command } from 'commander';
import { createClient } from '@kleidon/client';
import type { Credentials, Probed, Probing } from '@kleidon/probe';
import { formats } from '@kleidon/core';
import { writeFile } from '../write-file.ts';
import { EXIT, Stop } from '../exit.ts';
import { collect, needAddress, withSource, wholeNumber, type SourceOptions } from '../options.ts';
import { print } from '../output/print.ts';
import { showProgress } from '../output/progress.ts';
import { printProbe } from '../output/probe.ts';
import { readText } from '../read-text.ts';
import { siteFrom } from '../site-from.ts';
import { sourceFrom } from '../source/source-from.ts';

interface ProbeOptions extends SourceOptions {
  readonly under?: string;
  readonly as?: string[];
  readonly signIn?: string;
  readonly identity?: string;
  readonly pause?: number;
  readonly timeout: number;
  readonly limit: number;
  readonly junit?: string;
  readonly json?: boolean;
}

const LOOPBACK = /^(?:localhost|127\.0\.0\.1|\[::1\])$/;
/** Milliseconds between two requests to a website that others use too. */
const USUAL_PAUSE = 100;

/** `kleidon probe`: the visits of the grid made for real, and compared with what the rules say. */
export function addProbe(program: Command): void {
  withSource(program.command('probe'))
    .description('make the visits of the grid over HTTP, and tell where the website differs')
    .argument('<url>', 'where the website is, such as https://www.example.org')
    .addOption(new Option('--under <address>', 'only this page and those beneath it'))
    .addOption(
      new Option('--as <visitor>', 'only this visitor; may be repeated').argParser(collect),
    )
    .addOption(
      new Option('--sign-in <file>', 'YAML: cookies and headers with which each visitor is known'),
    )
    .addOption(
      new Option(
        '--identity <url>',
        'the test provider behind a gateway; that of the gateway of the service by default',
      ),
    )
    .addOption(
      new Option(
        '--pause <ms>',
        `milliseconds between two requests; ${USUAL_PAUSE}, on this machine 0`,
      ).argParser(wholeNumber(0, 60_000)),
    )
    .addOption(
      new Option('--timeout <seconds>', 'seconds that an answer may take')
        .default(20)
        .argParser(wholeNumber(1, 600)),
    )
    .addOption(
      new Option('--limit <number>', 'the most visits to make')
        .default(10_000)
        .argParser(wholeNumber(1, 1_000_000)),
    )
    .addOption(new Option('--junit <file>', 'write a report in JUnit XML here too'))
    .addHelpText(
      'after',
      `
It asks with GET alone, one request after the other, and only the hosts that it was given. The rules
are those that are live; with --file, those of the file. It exits with 1 where a visit differs, where
signing in fails, and where nothing could be tried.

Examples:
  kleidon probe https://www.example.org --file www.site.yaml --sign-in visitors.yaml
  kleidon probe https://www.example.org --as gale --under /crew --file www.site.yaml
  kleidon probe http://127.0.0.1:4791 --site merrow-point --junit probe.xml`,
    )
    .action(async (url: string, options: ProbeOptions, command: Command) => {
      const probing = await probingOf(url, options, command);
      const probed = await run(probing);
      if (options.junit !== undefined) writeFile(options.junit, asJunit(probed));
      print(options.json, probed, () => printProbe(probed));
      if (!isWell(probed)) process.exitCode = EXIT.failed;
    });
}

async function probingOf(url: string, options: ProbeOptions, command: Command): Promise<Probing> {
  if (!/^https?:\/\//.test(url) || !URL.canParse(url) || new URL(url).pathname !== '/')
    throw new Stop(
      EXIT.wrongUse,
      `"${url}" is no website. Write protocol and host, such as https://www.example.org.`,
    );
  needAddress(options.under);
  const { origin, hostname } = new URL(url);
  const isFromFile = options.file !== undefined;
  const site = isFromFile ? undefined : await siteFrom(createClient(options.service), options);
  const isUsual = command.getOptionValueSource('state') === 'default';
  const source = await sourceFrom({
    ...options,
    ...(site === undefined ? {} : { site }),
    state: isUsual ? 'live' : options.state,
  });
  const testProvider =
    options.identity ??
    (site === undefined ? null : await testProviderOf(options.service, site, origin));
  if (testProvider !== null && !URL.canParse(testProvider))
    throw new Stop(EXIT.wrongUse, `"${testProvider}" is no address of a test provider.`);
  return {
    rules: source,
    requestOptions: {
      base: origin,
      home: await source.home(),
      pause: options.pause ?? (LOOPBACK.test(hostname) ? 0 : USUAL_PAUSE),
      timeout: options.timeout,
    },
    under: options.under,
    visitors: options.as,
    testProvider,
    credentials: options.signIn === undefined ? new Map() : await credentialsIn(options.signIn),
    limit: options.limit,
  };
}

/** Reads how visitors are known, or ends the command. */
async function credentialsIn(file: string): Promise<Map<string, Credentials>> {
  const { CredentialsProblem, readCredentials } = await import('@kleidon/probe');
  try {
    return readCredentials(readText(file), file);
  } catch (error) {
    if (error instanceof CredentialsProblem) throw new Stop(EXIT.wrongUse, error.message);
    throw error;
  }
}

/** The test provider of the gateway, where the website that is asked is that gateway. */
async function testProviderOf(
  service: string,
  site: string,
  website: string,
): Promise<string | null> {
  const { gateway } = await createClient(service).gateway(site);
  return gateway?.testProvider && gateway.publicAddress === website ? gateway.provider : null;
}

async function run(probing: Probing): Promise<Probed> {
  // A fifth of the command's code: only what asks websites loads it.
  const { probe, TooMany } = await import('@kleidon/probe');
  const progress = showProgress();
  try {
    return await probe(probing, (done, all) => progress.say(`${done} of ${all} visits`));
  } catch (error) {
    if (!(error instanceof TooMany)) throw error;
    throw new Stop(
      EXIT.wrongUse,
      `These are ${error.visits} visits, and ${probing.limit} may be made. Ask for fewer with --under or --as, or allow more with --limit ${error.visits}.`,
    );
  } finally {
    progress.end();
  }
}

/** What was not tried for want of a sign-in proves nothing. */
const isWell = ({ differed, visits, untried }: Probed): boolean =>
  differed === 0 && visits.length > 0 && !untried.some(({ failed }) => failed);

function asJunit({ site, visits, untried }: Probed): string {
  return formats.writeJunit(`${site}: what the website does`, [
    ...visits.map(({ address, visitor, difference }): formats.TestCase => ({
      suite: visitor,
      name: address,
      failure:
        difference &&
        `${difference.address}: the rules say ${difference.expected}, it answered ${difference.found}`,
      skipped: null,
    })),
    ...untried.map(({ visitor, because, failed }): formats.TestCase => ({
      suite: visitor,
      name: 'all pages',
      failure: failed ? because : null,
      skipped: failed ? null : because,
    })),
  ]);
}
