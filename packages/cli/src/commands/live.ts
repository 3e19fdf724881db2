import { Option, type Command } from 'commander';
import {
  createClient,
  type Client,
  type GatewayInfo,
  type MissesRequest,
  type UsesRequest,
} from '@kleidon/client';
import { jsonOption, serviceOption, siteOption, wholeNumber } from '../options.ts';
import { minuteOf } from '../output/minute.ts';
import { print } from '../output/print.ts';
import { bold, count, dim, red } from '../output/style.ts';
import { plainTable } from '../output/table.ts';
import { siteFrom } from '../site-from.ts';
import { showProbe } from './live-probe.ts';

interface LiveOptions {
  readonly site?: string;
  readonly service: string;
  readonly json?: boolean;
  readonly limit: number;
  readonly search?: string;
  readonly order?: string;
  readonly now?: boolean;
  readonly ended?: boolean;
}

/** `kleidon live`: what happens at the gateway of a site. */
export function addLive(program: Command): void {
  const live = program
    .command('live')
    .description(
      'what happens at the website: its gateway, misses, redirects in use, sessions, probes',
    );
  const add = (
    name: string,
    description: string,
    example: string,
    act: (client: Client, site: string, options: LiveOptions) => Promise<void>,
  ): Command =>
    live
      .command(name)
      .description(description)
      .addOption(siteOption())
      .addOption(serviceOption())
      .addOption(jsonOption())
      .addHelpText('after', `\nExample:\n  kleidon live ${example}`)
      .action(async (options: LiveOptions) => {
        const client = createClient(options.service);
        await act(client, await siteFrom(client, options), options);
      });
  const mostOption = () =>
    new Option('--limit <number>', 'how many to list').default(50).argParser(wholeNumber(1, 1000));

  add('state', 'where the gateway is, and how the website does', 'state --site www', state);
  add(
    'misses',
    'what was asked for and not found',
    'misses --limit 20 --json > misses.json',
    misses,
  )
    .addOption(mostOption())
    .addOption(new Option('--search <text>', 'only addresses with this in them'))
    .addOption(
      new Option('--order <order>', 'what comes first')
        .choices(['count', 'last', 'address'])
        .default('count'),
    );
  add(
    'redirects',
    'how often each redirect was used',
    'redirects --order unused --site www',
    redirects,
  )
    .addOption(mostOption())
    .addOption(
      new Option('--order <order>', 'what comes first')
        .choices(['count', 'last', 'unused', 'file'])
        .default('count'),
    );
  add('sessions', 'who is signed in', 'sessions --site www', sessions);
  add(
    'probe',
    'where the website differs from the rules, as the service finds by itself',
    'probe --now --site www',
    showProbe,
  )
    .addOption(mostOption())
    .addOption(new Option('--search <text>', 'only addresses and visitors with this in them'))
    .addOption(new Option('--ended', 'differences that are over, in place of those there are now'))
    .addOption(new Option('--now', 'make a run first, and wait for its end'));
}

async function state(client: Client, site: string, { json }: LiveOptions): Promise<void> {
  const told = await client.gateway(site);
  print(json, told, () => {
    if (!told.gateway) return 'No gateway runs for this site.';
    const { publicAddress, origin, provider, login, sessions: open, health } = told.gateway;
    const does = health.isUp ? `answers ${health.says} in ${health.took} ms` : red(health.says);
    return [
      `gateway   ${publicAddress}`,
      `website   ${origin}, ${does}`,
      ...(provider === null && login ? [] : [`sign-in   ${provider ?? 'none'}`]),
      ...(login ? [`login     tokens of ${login.by}; ${rejectedInWords(login)}`] : []),
      `signed in ${count(open, 'session')}`,
    ].join('\n');
  });
}

function rejectedInWords({ rejected, last }: NonNullable<GatewayInfo['login']>): string {
  if (last === null) return 'none was rejected';
  return `${count(rejected, 'was', 'were')} rejected, the last at ${minuteOf(last.at)}: ${last.reason}`;
}

async function misses(
  client: Client,
  site: string,
  { json, limit, search, order }: LiveOptions,
): Promise<void> {
  const told = await client.misses(site, {
    limit,
    search,
    order: order as MissesRequest['order'],
  });
  if (json) {
    print(true, told, () => '');
    return;
  }
  const isReleased = (await client.site(site)).live !== null;
  const rows: string[][] = [];
  for (const { address, count: times, last, referrer, page } of told.misses) {
    const asked = { address, as: 'guest', state: 'live' };
    const [meant] = isReleased && page === null ? await client.suggestPages(site, asked) : [];
    const from = referrer ?? dim('not said');
    rows.push([String(times), address, minuteOf(last), from, meant?.address ?? '']);
  }
  const shown = rows.length < told.found ? `, the first ${rows.length} of them` : '';
  print(
    false,
    null,
    () =>
      `${tableOf(['times', 'asked for', 'last', 'linked from', 'perhaps'], rows)}\n${told.found} not found${shown}`,
  );
}

async function redirects(
  client: Client,
  site: string,
  { json, limit, order }: LiveOptions,
): Promise<void> {
  const told = await client.redirectUses(site, {
    limit,
    order: order as UsesRequest['order'],
  });
  print(json, told, () => {
    const rows = told.rows.map(({ count: times, from, to, when, last }) => [
      String(times),
      when === null ? from : `${from} ${dim(`when ${when}`)}`,
      to,
      last === null ? dim('never') : minuteOf(last),
    ]);
    return `${tableOf(['times', 'from', 'to', 'last'], rows)}\n${told.used} of ${told.all} in use`;
  });
}

async function sessions(client: Client, site: string, { json }: LiveOptions): Promise<void> {
  const told = await client.sessions(site);
  print(json, told, () => {
    const rows = told.sessions.map(({ session, visitor, summary, seen, until }) => [
      session,
      visitor,
      summary,
      minuteOf(seen),
      minuteOf(until),
    ]);
    return `${tableOf(['session', 'visitor', 'with', 'seen', 'until'], rows)}\n${count(told.all, 'session')}`;
  });
}

const tableOf = (head: readonly string[], rows: readonly (readonly string[])[]): string =>
  plainTable(
    head.map((one) => bold(one)),
    rows,
  );
