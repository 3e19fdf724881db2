import { Option, type Command } from 'commander';
import { createClient, type KnownPurchase, type ReceivedEvent } from '@kleidon/client';
import { EXIT, Stop } from '../exit.ts';
import { jsonOption, serviceOption, siteOption, wholeNumber } from '../options.ts';
import { minuteOf } from '../output/minute.ts';
import { print } from '../output/print.ts';
import { bold, count, dim, red } from '../output/style.ts';
import { plainTable } from '../output/table.ts';
import { siteFrom } from '../source.ts';

interface PurchasesOptions {
  readonly site?: string;
  readonly service: string;
  readonly json?: boolean;
  readonly email?: string;
  readonly visitor?: string;
  readonly at?: string;
  readonly limit: number;
}

/** `kleidon purchases`: what shops told, and what follows from it for a buyer. */
export function addPurchases(program: Command): void {
  const purchases = program
    .command('purchases')
    .description('who bought what, as the shops of a site told');
  const add = (name: string, description: string, example: string): Command =>
    purchases
      .command(name)
      .description(description)
      .addOption(siteOption())
      .addOption(serviceOption())
      .addOption(jsonOption())
      .addHelpText('after', `\nExample:\n  kleidon purchases ${example}`);

  add(
    'show',
    'the purchases of a buyer, and what made them so',
    'show --email mia@www.example --at 2027-03-01',
  )
    .addOption(new Option('--email <address>', 'the address of the buyer'))
    .addOption(new Option('--visitor <id>', "the buyer's id on the website"))
    .addOption(new Option('--at <moment>', 'as they stood, or will stand, at this moment'))
    .action(async ({ service, json, email, visitor, at, ...options }: PurchasesOptions) => {
      if (email === undefined && visitor === undefined)
        throw new Stop(EXIT.wrongUse, 'Name a buyer with --email or --visitor.');
      const client = createClient(service);
      const told = await client.purchases(await siteFrom(client, options), { email, visitor, at });
      print(json, told, () =>
        told.purchases.length === 0 ? 'No purchases.' : told.purchases.map(inLines).join('\n\n'),
      );
    });

  add('events', 'what the shops told, the newest first', 'events --limit 20')
    .addOption(
      new Option('--limit <number>', 'how many to list')
        .default(50)
        .argParser(wholeNumber(1, 1000)),
    )
    .action(async ({ service, json, limit, ...options }: PurchasesOptions) => {
      const client = createClient(service);
      const told = await client.shopEvents(await siteFrom(client, options), { limit });
      print(json, told, () => {
        const rows = told.events.map((one) => [
          minuteOf(one.at),
          one.type,
          one.purchase ?? '',
          one.product ?? '',
          one.email ?? one.visitor ?? dim('not said'),
        ]);
        const head = ['when', 'what', 'purchase', 'product', 'buyer'].map((one) => bold(one));
        const shown = rows.length < told.found ? `, the last ${rows.length} of them` : '';
        return [
          plainTable(head, rows),
          `${count(told.found, 'event')}${shown}`,
          ...told.rejected.map(
            ({ shop, id, problem, receivedAt }) =>
              `${red('✗')} ${shop} ${id}, ${minuteOf(receivedAt)}: ${problem}`,
          ),
        ].join('\n');
      });
    });
}

function inLines(one: KnownPurchase): string {
  const { shop, purchase, product, from, until, refunded, paused, cancelled, events } = one;
  const states = [
    ...(refunded ? [red('refunded')] : []),
    ...(paused ? ['paused'] : []),
    ...(cancelled ? ['not renewed'] : []),
  ];
  const period = `${from === null ? '' : `from ${minuteOf(from)} `}${until === null ? 'without end' : `until ${minuteOf(until)}`}`;
  return [
    `${bold(product)} ${period}${states.map((state) => `, ${state}`).join('')} ${dim(`${shop} ${purchase}`)}`,
    ...events.map((event) => `  ${minuteOf(event.at)}  ${wordsOf(event)}`),
  ].join('\n');
}

const wordsOf = ({ type, until, partly }: ReceivedEvent): string =>
  `${type}${partly ? ', in part' : ''}${until === null ? '' : `, until ${minuteOf(until)}`}`;
