import type { Command, Option } from 'commander';

/** What a word may become. */
export interface Candidate {
  readonly word: string;
  readonly description: string;
}

/** What of a site file is offered: the names of its visitors, and addresses of its pages. */
export interface KnownSite {
  readonly visitors: readonly Candidate[];
  readonly pages: readonly Candidate[];
}

/** Options and arguments whose values a site file knows. */
const VISITORS = ['--as', '--visitor'];
const PAGES = ['--under', 'address', 'page'];

/**
 * What the last of some words may become.
 *
 * @param words what was typed behind the name of the program; the last one may be empty
 * @param readSite reads the site file that the words name
 * @returns none where a file is wanted, or anything
 */
export async function candidates(
  program: Command,
  words: readonly string[],
  readSite: (file: string) => Promise<KnownSite | null>,
): Promise<Candidate[]> {
  const partial = words.at(-1) ?? '';
  const { command, open, position, file } = readWords(program, words.slice(0, -1));
  const site = async (): Promise<KnownSite | null> => (file === null ? null : readSite(file));
  const inner = command.createHelp().visibleCommands(command);
  const all: readonly Candidate[] = open
    ? await valuesOf(open.long ?? '', open.argChoices, site)
    : partial.startsWith('-')
      ? optionsOf(command)
      : inner.length === 0
        ? await argumentsOf(command, position, site)
        : position === 0
          ? inner.map((one) => ({ word: one.name(), description: one.description() }))
          : [];
  return all.filter(({ word }) => word.startsWith(partial));
}

/** What the words before the last one come to. */
interface Typed {
  readonly command: Command;
  /** An option whose value comes next. */
  readonly open: Option | null;
  /** How many arguments there are already. */
  readonly position: number;
  readonly file: string | null;
}

function readWords(program: Command, words: readonly string[]): Typed {
  let command = program;
  let open: Option | null = null;
  let position = 0;
  let file: string | null = null;
  for (const word of words) {
    const given: Option | null = open;
    const known = command.options.find(({ short, long }) => word === short || word === long);
    open = null;
    if (given) file = given.long === '--file' ? word : file;
    else if (word.startsWith('--file=')) file = word.slice('--file='.length);
    else if (known) open = known.required || known.optional ? known : null;
    else if (!word.startsWith('-')) {
      const inner = command.commands.find((one) => one.name() === word);
      if (inner) command = inner;
      else position++;
    }
  }
  return { command, open, position, file };
}

async function argumentsOf(
  { registeredArguments }: Command,
  position: number,
  site: () => Promise<KnownSite | null>,
): Promise<readonly Candidate[]> {
  const last = registeredArguments.at(-1);
  const argument = registeredArguments[position] ?? (last?.variadic ? last : undefined);
  return argument ? valuesOf(argument.name(), argument.argChoices, site) : [];
}

async function valuesOf(
  name: string,
  choices: readonly string[] | undefined,
  site: () => Promise<KnownSite | null>,
): Promise<readonly Candidate[]> {
  if (choices) return choices.map((word) => ({ word, description: '' }));
  if (VISITORS.includes(name)) return (await site())?.visitors ?? [];
  return PAGES.includes(name) ? ((await site())?.pages ?? []) : [];
}

const optionsOf = (command: Command): Candidate[] =>
  command
    .createHelp()
    .visibleOptions(command)
    .flatMap(({ long, description }) => (long ? [{ word: long, description }] : []));
