import { Option, type Command } from 'commander';
import { createClient, type Release } from '@kleidon/client';
import { jsonOption, serviceOption, siteOption, wholeNumber } from '../options.ts';
import { printIntroduced } from '../output/check.ts';
import { print } from '../output/print.ts';
import { siteFrom } from '../source.ts';

interface ReleaseOptions {
  readonly site?: string;
  readonly service: string;
  readonly json?: boolean;
}

/** `kleidon release`: making the draft live, and what was live before. */
export function addRelease(program: Command): void {
  const release = program
    .command('release')
    .description('make the draft live, or look at earlier releases');

  release
    .command('make', { isDefault: true })
    .description('make the draft live as a new release')
    .addOption(new Option('--note <text>', 'why').default(''))
    .addOption(
      new Option(
        '--override <reason>',
        'release it although it breaks guarantees; the reason is recorded',
      ),
    )
    .addOption(
      new Option('--draft <version>', 'only if the draft has this version').argParser(
        wholeNumber(1, 1e9),
      ),
    )
    .addOption(siteOption())
    .addOption(serviceOption())
    .addOption(jsonOption())
    .addHelpText(
      'after',
      "\nExample:\n  kleidon release --note 'The crew room opens to ringers' --site www",
    )
    .action(
      async ({
        service,
        json,
        note,
        draft,
        override,
        ...options
      }: ReleaseOptions & { note: string; draft?: number; override?: string }) => {
        const client = createClient(service);
        const site = await siteFrom(client, options);
        const version = draft ?? (await client.draft(site)).version;
        const made = await client.release(site, version, note, override);
        print(json, made, () =>
          [`Released ${printRelease(made)}`, ...printIntroduced(made.introduced, { site })].join(
            '\n',
          ),
        );
      },
    );

  release
    .command('list')
    .description('list the releases, the latest first')
    .addOption(siteOption())
    .addOption(serviceOption())
    .addOption(jsonOption())
    .action(async ({ service, json, ...options }: ReleaseOptions) => {
      const client = createClient(service);
      const all = await client.releases(await siteFrom(client, options));
      print(json, { releases: all }, () =>
        all.length === 0 ? 'Nothing was released yet.' : all.map(printRelease).join('\n'),
      );
    });

  release
    .command('get')
    .description('print the site file of a release')
    .argument('<number>', 'its number', wholeNumber(1, 1e9))
    .addOption(siteOption())
    .addOption(serviceOption())
    .addOption(jsonOption())
    .action(async (number: number, { service, json, ...options }: ReleaseOptions) => {
      const client = createClient(service);
      const found = await client.findRelease(await siteFrom(client, options), number);
      if (json) print(json, found, () => '');
      else process.stdout.write(found.text);
    });
}

function printRelease({ number, note, override, releasedAt, draftVersion }: Release): string {
  const why = note === '' ? '' : `: ${note}`;
  const although = override === null ? '' : ` (although it breaks guarantees: ${override})`;
  return `${number} (draft version ${draftVersion}) at ${releasedAt}${why}${although}`;
}
