import { Option, type Command } from 'commander';
import {
  createClient,
  type Client,
  type KnownPurchase,
  type PurchaseSummary,
  type StandingPurchase,
} from '@kleidon/client';
import { EXIT, Stop } from '../exit.ts';
import { jsonOption, serviceOption, siteOption, wholeNumber } from '../options.ts';
import { buyerOptions, periodOf, stateWords, wordsOf } from '../output/purchase.ts';
import { minuteOf } from '../output/minute.ts';
import { print } from '../output/print.ts';
import { bold, count, dim, red, yellow } from '../output/style.ts';
import { plainTable } from '../output/table.ts';
import { siteFrom } from '../site-from.ts';
import { addPurchaseLists } from './purchase-lists.ts';

interface Options {
  readonly site?: string;
  readonly service: string;
  readonly json?: boolean;
}
interface BuyerOptions extends Options {
  readonly email?: string;
  readonly visitor?: string;
}

/** `kleidon purchases`: who bought what, as the shops of a site told. */
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
  const at = () => new Option('--at <moment>', 'as they stood, or will stand, at this moment');

  add('count', 'how many purchases of each product there are', 'count --at 2027-01-01')
    .addOption(at())
    .action(async ({ service, json, at: moment, ...options }: Options & { at?: string }) => {
      const client = createClient(service);
      const summary = await client.purchaseSummary(await siteFrom(client, options), moment);
      print(json, summary, () => countsIn(summary));
    });

  add('list', 'all purchases, or some of them', 'list --product hide-permit --state lapsed')
    .addOption(new Option('--product <name>', 'of this product'))
    .addOption(
      new Option('--state <state>', 'that stand like this').choices([
        ...['in-force', 'lapsed', 'paused', 'refunded', 'upcoming'],
      ]),
    )
    .addOption(at())
    .addOption(
      new Option('--limit <number>', 'how many to list')
        .default(100)
        .argParser(wholeNumber(1, 1000)),
    )
    .addOption(new Option('--after <purchase>', 'go on after this one, as it was printed'))
    .action(
      async ({
        service,
        json,
        site,
        ...query
      }: Options & Parameters<Client['purchaseList']>[1]) => {
        const client = createClient(service);
        const { next, ...list } = await client.purchaseList(
          await siteFrom(client, given(site)),
          query,
        );
        print(json, { ...list, next }, () =>
          list.purchases.length === 0
            ? 'No purchases.'
            : [
                inTable(list.purchases),
                ...(next === null ? [] : [dim(`There are more: --after ${next}`)]),
              ].join('\n'),
        );
      },
    );

  buyerOptions(
    add(
      'show',
      'the purchases of a buyer, and what made them so',
      'show --email mia@www.example --at 2027-03-01',
    ),
  )
    .addOption(new Option('--order <purchase>', 'of whoever made this purchase'))
    .addOption(at())
    .action(async ({ service, json, email, visitor, ...options }: BuyerOptions & ShowOptions) => {
      const { order, at: moment, ...rest } = options;
      if (email === undefined && visitor === undefined && order === undefined)
        throw new Stop(EXIT.wrongUse, 'Name a buyer with --email, --visitor or --order.');
      const client = createClient(service);
      const query = { email, visitor, order, at: moment };
      const told = await client.purchases(await siteFrom(client, rest), query);
      print(json, told, () =>
        told.purchases.length === 0 ? 'No purchases.' : told.purchases.map(inLines).join('\n\n'),
      );
    });

  buyerOptions(
    add(
      'add',
      'grant access by hand',
      'add hide-permit --email vik@www.example --until 2027-03-01 --note "Helps with the count"',
    ),
  )
    .argument('<product>', 'a product of the site file')
    .addOption(new Option('--from <day>', 'from when on; now by default'))
    .addOption(new Option('--until <day>', 'until when; without end by default'))
    .requiredOption('--note <text>', 'why')
    .action(
      async (product: string, { service, json, site, ...grant }: BuyerOptions & GrantOptions) => {
        const client = createClient(service);
        const added = await client.grantAccess(await siteFrom(client, given(site)), {
          product,
          ...grant,
        });
        print(json, added, () => inLines(added));
      },
    );

  add('end', 'end access that was granted by hand', 'end grant-0196e1')
    .argument('<grant>', 'as it is listed')
    .addOption(new Option('--note <text>', 'why'))
    .action(
      async (grant: string, { service, json, note, ...options }: Options & { note?: string }) => {
        const client = createClient(service);
        await client.endGrant(await siteFrom(client, options), grant, note);
        print(json, { ended: grant }, () => `Ended ${grant}.`);
      },
    );

  const addLink = (
    command: Command,
    call: 'linkBuyer' | 'unlinkBuyer',
    done: 'Linked' | 'Unlinked',
  ): Command =>
    command
      .argument('<email>', 'an address of the buyer')
      .argument('<other>', 'the other one')
      .requiredOption('--note <text>', 'why')
      .action(
        async (
          email: string,
          other: string,
          { service, json, note, ...options }: Options & { note: string },
        ) => {
          const client = createClient(service);
          await client[call](await siteFrom(client, options), { email, other, note });
          print(json, { email, other }, () => `${done} ${email} and ${other}.`);
        },
      );
  addLink(
    add(
      'link',
      'link a second address to a buyer',
      'link mia@www.example mia@work.example --note "She asked for it"',
    ),
    'linkBuyer',
    'Linked',
  );
  addLink(
    add(
      'unlink',
      'end the link between two addresses',
      'unlink mia@www.example mia@work.example --note "She has left"',
    ),
    'unlinkBuyer',
    'Unlinked',
  );

  buyerOptions(
    add(
      'erase',
      'erase a name of a buyer; what they bought counts',
      'erase --email mia@www.example',
    ),
  ).action(async ({ service, json, email, visitor, ...options }: BuyerOptions) => {
    if (email === undefined && visitor === undefined)
      throw new Stop(EXIT.wrongUse, 'Name a buyer with --email or --visitor.');
    const client = createClient(service);
    const erased = await client.eraseBuyer(await siteFrom(client, options), { email, visitor });
    const others = erased.others.map((one) =>
      one.email === null ? `--visitor ${one.visitor}` : `--email ${one.email}`,
    );
    print(json, erased, () =>
      [
        `Erased from ${count(erased.events, 'event')}.`,
        ...(others.length === 0
          ? []
          : [
              'Other names have the same purchases, and keep them:',
              ...others.map((one) => `  ${one}`),
            ]),
      ].join('\n'),
    );
  });
  addPurchaseLists(add);
}

interface ShowOptions {
  readonly order?: string;
  readonly at?: string;
}
interface GrantOptions {
  readonly from?: string;
  readonly until?: string;
  readonly note: string;
}
const given = (site: string | undefined): { site?: string } => (site === undefined ? {} : { site });

function inLines(one: KnownPurchase): string {
  const { shop, purchase, product, events } = one;
  return [
    `${bold(product)} ${periodOf(one)}, ${stateWords(one)} ${dim(`${shop} ${purchase}`)}`,
    ...events.map((event) => `  ${minuteOf(event.at)}  ${wordsOf(event)}`),
  ].join('\n');
}

const inTable = (purchases: readonly StandingPurchase[]): string =>
  plainTable(
    ['purchase', 'product', 'buyer', 'period', 'stands'].map((one) => bold(one)),
    purchases.map((one) => [
      `${one.shop}/${one.purchase}`,
      one.product,
      one.email ?? one.visitor ?? dim('forgotten'),
      periodOf(one),
      stateWords(one),
    ]),
  );

function countsIn({ products, pending, rejected }: PurchaseSummary): string {
  if (products.length === 0) return 'No products, and no purchases.';
  const fields = ['inForce', 'inGrace', 'notRenewed', 'paused', 'lapsed', 'refunded'] as const;
  const head = ['product', 'in force', 'in grace', 'not renewed', 'paused', 'lapsed', 'refunded'];
  const rows = products.map((one) => [
    one.title === null ? `${one.product} ${yellow('(not in the site file)')}` : one.product,
    ...fields.map((field) => one[field]),
  ]);
  const right = fields.map((): 'right' => 'right');
  const { found } = pending.withoutPurchase;
  return [
    plainTable(
      head.map((one) => bold(one)),
      rows,
      ['left', ...right],
    ),
    ...(found > 0
      ? [yellow(`${count(found, 'purchase')} told of, and not that they were made`)]
      : []),
    ...(rejected > 0
      ? [red(`${count(rejected, 'event')} not understood: kleidon events list`)]
      : []),
  ].join('\n');
}
