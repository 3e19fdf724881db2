import { InvalidArgumentError, Option, type Command } from 'commander';
import { EXIT, Stop } from './exit.ts';

/** Where a site comes from; see source/source.ts. */
export interface SourceOptions {
  readonly file?: string;
  readonly service: string;
  readonly site?: string;
  readonly state: string;
}

const fileOption = () =>
  new Option('-f, --file <file>', 'work on this site file, without a service');

/** Where a service is that says nothing else. */
export const USUAL_SERVICE = 'http://127.0.0.1:4780';

export const serviceOption = () =>
  new Option('--service <address>', 'where the service is')
    .env('KLEIDON_SERVICE')
    .default(USUAL_SERVICE);

export const siteOption = () =>
  new Option('-s, --site <name>', 'which site of the service; not needed when it has one').env(
    'KLEIDON_SITE',
  );

const stateOption = () =>
  new Option(
    '--state <state>',
    'which state of the site: draft, live, or the number of a release',
  ).default('draft');

export const jsonOption = () => new Option('--json', 'print JSON');

export const atOption = () =>
  new Option(
    '--at <time>',
    "at this date or time (2027-03-01, 2027-03-01T09:30) of the site's time zone; now by default",
  );

/** Reads a whole number in a range. */
export const wholeNumber =
  (least: number, limit: number) =>
  (text: string): number => {
    const number = Number(text);
    if (!Number.isInteger(number) || number < least || number > limit) {
      throw new InvalidArgumentError(`It is a whole number from ${least} to ${limit}.`);
    }
    return number;
  };

/** Collects the values of an option that may be given several times, or with commas between. */
export const collect = (text: string, before: string[] = []): string[] => [
  ...before,
  ...text
    .split(',')
    .map((one) => one.trim())
    .filter((one) => one !== ''),
];

/** Who a command is about, and where the site comes from: the options that several commands share. */
export interface AboutOptions extends SourceOptions {
  readonly as?: string;
  readonly visitor?: string;
  readonly at?: string;
  readonly json?: boolean;
}

const asOption = () => new Option('--as <visitor>', 'a visitor of the site file');

const visitorOption = () =>
  new Option(
    '--visitor <yaml>',
    "a visitor made up on the spot, such as '{ roles: [warden] }'",
  ).conflicts('as');

/** Adds the options that say where the site comes from, and how the answer is printed. */
export function withSource(command: Command): Command {
  return [fileOption(), siteOption(), stateOption(), serviceOption(), jsonOption()].reduce(
    (to, option) => to.addOption(option),
    command,
  );
}

/** The options of a command that changes a site file; see target.ts. */
export interface TargetOptions {
  readonly file?: string;
  readonly site?: string;
  readonly service: string;
  readonly dryRun?: boolean;
  readonly json?: boolean;
}

/** Adds the options that say which site file is changed, and how the answer is printed. */
export function withTarget(command: Command): Command {
  const dryRun = new Option('--dry-run', 'say what would be done, and write nothing');
  return [dryRun, fileOption(), siteOption(), serviceOption(), jsonOption()].reduce(
    (to, option) => to.addOption(option),
    command,
  );
}

/** Adds the options that say who a question is about, and when. */
export function withSomeone(command: Command): Command {
  return [asOption(), visitorOption(), atOption()].reduce(
    (to, option) => to.addOption(option),
    command,
  );
}

/** Ends the command unless it was said who it is about. */
export function needSomeone({ as, visitor }: AboutOptions): void {
  if (as === undefined && visitor === undefined) {
    throw new Stop(EXIT.wrongUse, "Say who: --as NAME, or --visitor '{ roles: [warden] }'.");
  }
}

/** Ends the command where what should be an address of the site is none. */
export function needAddress(address: string | undefined): void {
  if (address !== undefined && !address.startsWith('/'))
    throw new Stop(EXIT.wrongUse, `"${address}" is no address of the site. Begin it with a slash.`);
}
