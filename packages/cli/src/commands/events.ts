import { Option, type Command } from 'commander';
import {
  createClient,
  type ReceivedEvent,
  type RejectedEvent,
  type TriedEvent,
} from '@kleidon/client';
import { EXIT } from '../exit.ts';
import { collect, jsonOption, serviceOption, siteOption, wholeNumber } from '../options.ts';
import { minuteOf } from '../output/minute.ts';
import { print } from '../output/print.ts';
import { periodOf, stateWords, wordsOf } from '../output/purchase.ts';
import { bold, count, dim, green, red, yellow } from '../output/style.ts';
import { plainTable } from '../output/table.ts';
import { readText } from '../read-text.ts';
import { siteFrom } from '../site-from.ts';

interface Options {
  readonly site?: string;
  readonly service: string;
  readonly json?: boolean;
}

/** `kleidon events`: what the shops of a site told, and what was not understood. */
export function addEvents(program: Command): void {
  const events = program
    .command('events')
    .description('what the shops of a site told, and what was not understood');
  const add = (name: string, description: string, example: string): Command =>
    events
      .command(name)
      .description(description)
      .addOption(siteOption())
      .addOption(serviceOption())
      .addOption(jsonOption())
      .addHelpText('after', `\nExample:\n  kleidon events ${example}`);

  add('list', 'the last events, and those that were rejected', 'list --limit 20')
    .addOption(
      new Option('--limit <number>', 'how many to list')
        .default(50)
        .argParser(wholeNumber(1, 1000)),
    )
    .action(async ({ service, json, limit, ...options }: Options & { limit: number }) => {
      const client = createClient(service);
      const told = await client.shopEvents(await siteFrom(client, options), { limit });
      print(json, told, () => {
        const shown =
          told.events.length < told.found ? `, the last ${told.events.length} of them` : '';
        return [
          ...(told.events.length === 0 ? [] : [inTable(told.events)]),
          `${count(told.found, 'event')}${shown}`,
          ...told.rejected.map(rejectedLine),
        ].join('\n');
      });
    });

  add('try', 'see what an event would become; nothing is kept', 'try event.json --shop hut')
    .argument('<file>', 'what the shop sends, as JSON; - reads it')
    .requiredOption('--shop <name>', 'a shop of the settings')
    .addOption(
      new Option('--header <name=value>', 'a header that comes with it').argParser(collect),
    )
    .action(
      async (
        file: string,
        {
          service,
          json,
          shop,
          header = [],
          ...options
        }: Options & { shop: string; header?: string[] },
      ) => {
        const client = createClient(service);
        const tried = await client.tryShopEvent(await siteFrom(client, options), {
          shop,
          body: readText(file),
          headers: header.map((one) => ({
            name: one.split('=', 1)[0]!,
            value: one.replace(/^[^=]*=/, ''),
          })),
        });
        print(json, tried, () => triedIn(tried));
        if (tried.result === 'rejected') process.exitCode = EXIT.failed;
      },
    );

  add('apply', 'read again what was not understood, by the settings as they are now', 'apply')
    .addOption(new Option('--shop <name>', 'that of one shop alone'))
    .addOption(new Option('--id <id>', 'one event alone'))
    .action(
      async ({ service, json, shop, id, ...options }: Options & { shop?: string; id?: string }) => {
        const client = createClient(service);
        const result = await client.applyShopEvents(await siteFrom(client, options), {
          ...(shop === undefined ? {} : { shop }),
          ...(id === undefined ? {} : { id }),
        });
        const { applied, reread, rejected } = result;
        print(json, result, () =>
          [
            `${count(applied, 'event')} applied.`,
            ...(reread > 0 ? [`${count(reread, 'event')} read as another product.`] : []),
            ...rejected.map(rejectedLine),
          ].join('\n'),
        );
        if (rejected.length > 0) process.exitCode = EXIT.failed;
      },
    );

  add('drop', 'forget an event that was not understood', 'drop hut msg_7')
    .argument('<shop>')
    .argument('<id>')
    .action(async (shop: string, id: string, { service, json, ...options }: Options) => {
      const client = createClient(service);
      await client.dropShopEvent(await siteFrom(client, options), shop, id);
      print(json, { dropped: id }, () => `Dropped ${id}.`);
    });
}

const inTable = (events: readonly ReceivedEvent[]): string =>
  plainTable(
    ['when', 'what', 'purchase', 'product', 'buyer'].map((one) => bold(one)),
    events.map((one) => [
      minuteOf(one.at),
      one.type,
      one.purchase ?? '',
      one.product ?? '',
      one.email ?? one.visitor ?? dim('not said'),
    ]),
  );

const rejectedLine = ({ shop, id, problem, receivedAt }: RejectedEvent): string =>
  `${red('✗')} ${shop} ${id}, ${minuteOf(receivedAt)}: ${problem}`;

const RESULTS: Readonly<Record<TriedEvent['result'], string>> = {
  new: green('It would be applied.'),
  known: 'It is known already, and would change nothing.',
  ignored: 'The settings ignore events of this type.',
  rejected: red('It would be rejected.'),
  erases: 'The buyer would be forgotten.',
};

const triedIn = ({ result, event, problem, warnings, purchase }: TriedEvent): string =>
  [
    RESULTS[result],
    ...(problem === null ? [] : [problem]),
    ...(event === null
      ? []
      : [
          `  ${minuteOf(event.at)}  ${wordsOf(event)}`,
          ...(['purchase', 'product', 'email', 'visitor', 'formerEmail', 'from', 'until'] as const)
            .filter((field) => event[field] !== null)
            .map((field) => `  ${field.padEnd(9)} ${event[field]}`),
        ]),
    ...warnings.map((one) => yellow(one)),
    ...(purchase === null
      ? []
      : [`Then: ${bold(purchase.product)} ${periodOf(purchase)}, ${stateWords(purchase)}`]),
  ].join('\n');
