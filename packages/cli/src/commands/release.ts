import { Option, type Command } from 'commander';
import { createClient, type Release, type ScheduledRelease } from '@kleidon/client';
import { jsonOption, serviceOption, siteOption, wholeNumber } from '../options.ts';
import { printIntroduced } from '../output/check.ts';
import { print } from '../output/print.ts';
import { wrapped } from '../output/wrapped.ts';
import { siteFrom } from '../site-from.ts';

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
    .addOption(noteOption())
    .addOption(overrideOption())
    .addOption(
      new Option(
        '--at <time>',
        "take effect at this date or time (2027-03-01T09:00) of the site's time zone; at once by default",
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
      `
What is live then is the draft as it is now: compare it first, with kleidon compare live draft.

Examples:
  kleidon release --note 'The crew room opens to ringers' --site www
  kleidon release --note 'The spring opening' --at 2027-03-01T09:00`,
    )
    .action(
      async ({
        service,
        json,
        note,
        draft,
        override,
        at,
        ...options
      }: ReleaseOptions & { note: string; draft?: number; override?: string; at?: string }) => {
        const client = createClient(service);
        const site = await siteFrom(client, options);
        const version = draft ?? (await client.draft(site)).version;
        if (at !== undefined) {
          const why = override === undefined ? {} : { override };
          const scheduled = await client.scheduleRelease(site, version, { note, at, ...why });
          print(json, scheduled, () => printScheduled(scheduled));
          return;
        }
        const made = await client.release(site, version, note, override);
        print(json, made, () =>
          [`Released ${printListed(made)}`, ...printIntroduced(made.introduced, { site })].join(
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
      const site = await siteFrom(client, options);
      const [all, scheduled] = await Promise.all([
        client.releases(site),
        client.scheduledRelease(site),
      ]);
      print(json, { scheduled, releases: all }, () =>
        [
          ...(scheduled ? [printScheduled(scheduled)] : []),
          ...(all.length === 0 ? ['Nothing was released yet.'] : all.map(printListed)),
        ].join('\n'),
      );
    });

  release
    .command('restore')
    .description('make an earlier release live again, as a new one')
    .argument('<number>', 'its number', wholeNumber(1, 1e9))
    .addOption(noteOption())
    .addOption(overrideOption())
    .addOption(siteOption())
    .addOption(serviceOption())
    .addOption(jsonOption())
    .addHelpText(
      'after',
      `
The draft stays as it is. See what it changes first: kleidon compare live 3

Example:
  kleidon release restore 3 --note 'The shop was closed to buyers'`,
    )
    .action(
      async (
        number: number,
        { service, json, note, override, ...options }: ReleaseOptions & Why,
      ) => {
        const client = createClient(service);
        const site = await siteFrom(client, options);
        const made = await client.restoreRelease(site, number, note, override);
        print(json, made, () => `Released ${printListed(made)}`);
      },
    );

  release
    .command('cancel')
    .description('cancel the release that takes effect at a set time')
    .addOption(siteOption())
    .addOption(serviceOption())
    .action(async ({ service, ...options }: ReleaseOptions) => {
      const client = createClient(service);
      await client.cancelScheduledRelease(await siteFrom(client, options));
      print(false, null, () => 'The scheduled release is cancelled.');
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

interface Why {
  readonly note: string;
  readonly override?: string;
}

const noteOption = (): Option => new Option('--note <text>', 'why').makeOptionMandatory();

const overrideOption = (): Option =>
  new Option(
    '--override <reason>',
    'release it although it breaks guarantees; the reason is recorded',
  );

function printRelease({
  number,
  note,
  override,
  releasedAt,
  draftVersion,
  restores,
  scheduledFor,
}: Release): string {
  const what = restores === null ? `draft version ${draftVersion}` : `release ${restores} again`;
  const when = scheduledFor === null ? releasedAt : `${releasedAt}, set for ${scheduledFor}`;
  const why = note === '' ? '' : `: ${note}`;
  const although = override === null ? '' : ` (although it breaks guarantees: ${override})`;
  return `${number} (${what}) at ${when}${why}${although}`;
}

/** A release with what it changed for whom. */
const printListed = (release: Release): string =>
  [printRelease(release), ...(release.says ?? []).map((one) => wrapped('  ', one))].join('\n');

export const printScheduled = ({ draftVersion, takesEffectAt, note }: ScheduledRelease): string =>
  `Version ${draftVersion} of the draft is released at ${takesEffectAt}: ${note}`;
