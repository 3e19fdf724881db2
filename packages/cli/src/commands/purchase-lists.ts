import { Option, type Command } from 'commander';
import { createClient, type ReconciledPurchases } from '@kleidon/client';
import { writeFile } from '../write-file.ts';
import { EXIT } from '../exit.ts';
import { print } from '../output/print.ts';
import { count, dim, red, yellow } from '../output/style.ts';
import { readText } from '../read-text.ts';
import { siteFrom } from '../site-from.ts';

interface Options {
  readonly site?: string;
  readonly service: string;
  readonly json?: boolean;
}
interface ListOptions {
  readonly shop: string;
  readonly dryRun?: boolean;
}

/** Lists of purchases as CSV: written, taken over, and compared with those of a shop. */
export function addPurchaseLists(
  add: (name: string, description: string, example: string) => Command,
): void {
  add('export', 'all purchases as CSV', 'export purchases.csv --at 2027-01-01')
    .argument('[file]', 'where to write it; - prints it', '-')
    .addOption(new Option('--at <moment>', 'as they stood, or will stand, at this moment'))
    .action(
      async (
        file: string,
        { service, json, at: moment, ...options }: Options & { at?: string },
      ) => {
        const client = createClient(service);
        const site = await siteFrom(client, options);
        const text = await client.purchaseListCsv(site, { at: moment });
        if (file === '-' && !json) process.stdout.write(text);
        else {
          if (file !== '-') writeFile(file, text);
          const rows = text.split('\r\n').length - 2;
          print(
            json,
            { file, purchases: rows },
            () => `Wrote ${count(rows, 'purchase')} to ${file}.`,
          );
        }
      },
    );

  add(
    'import',
    'take over the purchases of a shop from CSV',
    'import old-shop.csv --shop hut --dry-run',
  )
    .argument('<file>', 'with the columns purchase, product, email, visitor, from, until, state')
    .requiredOption('--shop <name>', 'whose purchases they are')
    .addOption(new Option('--dry-run', 'say what would be done, and add nothing'))
    .action(
      async (file: string, { service, json, shop, dryRun, ...options }: Options & ListOptions) => {
        const client = createClient(service);
        const site = await siteFrom(client, options);
        const isDry = dryRun === true;
        const result = await client.importPurchases(site, shop, readText(file), isDry);
        print(json, result, () => importedIn(result, isDry));
        if (result.refused.length > 0) process.exitCode = EXIT.failed;
      },
    );

  add(
    'reconcile',
    "compare a shop's own list with what it told; exit code 1 where they differ",
    'reconcile orders.csv --shop hut',
  )
    .argument('<file>', 'as for import')
    .requiredOption('--shop <name>', 'whose list it is')
    .action(async (file: string, { service, json, shop, ...options }: Options & ListOptions) => {
      const client = createClient(service);
      const site = await siteFrom(client, options);
      const result = await client.importPurchases(site, shop, readText(file), true);
      print(json, result, () => reconciledIn(result, shop));
      const differs =
        result.differing.found + result.missingHere.found + result.missingThere.found > 0;
      if (differs || result.refused.length > 0) process.exitCode = EXIT.failed;
    });
}

function importedIn(
  { same, added, missingHere, differing, ...rest }: ReconciledPurchases,
  isDry: boolean,
): string {
  return [
    isDry
      ? `Would add ${count(missingHere.found, 'purchase')}; nothing was added.`
      : `Added ${count(added, 'purchase')}.`,
    `${same} known and the same.`,
    ...differencesIn(differing),
    ...refusedIn(rest),
  ].join('\n');
}

function reconciledIn(
  { same, differing, missingHere, missingThere, ...rest }: ReconciledPurchases,
  shop: string,
): string {
  const listed = ({ found, first }: ReconciledPurchases['missingHere']): string[] => [
    ...first.map(
      (one) => `  ${one.purchase}  ${one.product}  ${one.email ?? one.visitor ?? 'forgotten'}`,
    ),
    ...(found > first.length ? [dim(`  and ${found - first.length} more`)] : []),
  ];
  return [
    `${same} the same in both.`,
    ...differencesIn(differing),
    ...(missingHere.found > 0
      ? [red(`${missingHere.found} on the list, and not here:`), ...listed(missingHere)]
      : []),
    ...(missingThere.found > 0
      ? [
          red(`${missingThere.found} told of by ${shop}, and not on the list:`),
          ...listed(missingThere),
        ]
      : []),
    ...refusedIn(rest),
  ].join('\n');
}

const differencesIn = ({ found, first }: ReconciledPurchases['differing']): string[] =>
  found === 0
    ? []
    : [
        yellow(`${found} otherwise here than in the list, and left as they are:`),
        ...first.map(
          ({ purchase, fields }) =>
            `  ${purchase}  ${fields.map(({ field, listed, here }) => `${field} ${listed || 'nothing'}, here ${here || 'nothing'}`).join('; ')}`,
        ),
      ];

const refusedIn = ({
  refused,
  unread,
}: Pick<ReconciledPurchases, 'refused' | 'unread'>): string[] => [
  ...refused.map(({ line, message }) => `${red('✗')} Line ${line}: ${message}`),
  ...(unread.length > 0 ? [dim(`Columns that mean nothing here: ${unread.join(', ')}`)] : []),
];
