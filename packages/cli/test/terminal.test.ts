import { execFile } from 'node:child_process';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify, stripVTControlCharacters } from 'node:util';
import { KLEIDON } from '../../service/test/running.ts';
import { kleidon } from './cli.ts';

const SITE = 'demo/merrow-point.site.yaml';
const run = promisify(execFile);

/** What a command prints in a terminal of 80 columns. */
async function inTerminal(args: string): Promise<string> {
  const command = `stty cols 80 rows 40; '${process.execPath}' '${KLEIDON}' ${args}`;
  const { stdout } = await run('script', ['-qec', command, '/dev/null']);
  return stripVTControlCharacters(stdout.replaceAll('\r\n', '\n'));
}

describe('a terminal of 80 columns', () => {
  test.each([
    `visit /crew/rota --as gale --all --file ${SITE}`,
    `who-reaches /permit --file ${SITE}`,
    `grid --file ${SITE}`,
    '--help',
  ])('shows all of: kleidon %s', async (args) => {
    const lines = (await inTerminal(args)).split('\n');
    expect(lines.length).toBeGreaterThan(5);
    expect(lines.filter((line) => line.length > 80)).toEqual([]);
  });

  test('breaks what a gate says between words, behind the name of its stage', async () => {
    const shown = await inTerminal(`visit /crew/rota --as gale --file ${SITE}`);
    expect(shown).toMatch(/^ {3}gate {6}The gate crew-room .*\n {13}\S/m);
    // What reads a pipe gets a line for each reason.
    const { out } = await kleidon(['visit', '/crew/rota', '--as', 'gale', '--file', SITE]);
    expect(out).toMatch(/^ {3}gate {6}The gate crew-room .* asked to sign in\. \(line \d+\)$/m);
  });

  test('tells that a large site file is being read, and a pipe does not', async () => {
    const file = join(mkdtempSync(join(tmpdir(), 'kleidon-')), 'large.yaml');
    const pages = Array.from(
      { length: 3000 },
      (_, i) => `  /section/page-${i}: ${'Page '.repeat(40)}`,
    );
    writeFileSync(
      file,
      `kleidon: 1\nsite: { name: L, address: https://l.example }\npages:\n${pages.join('\n')}\n`,
    );
    expect(await inTerminal(`visit /section/page-1 --visitor '{}' --file ${file}`)).toContain(
      `Reading ${file}`.slice(0, 79),
    );
    const { err } = await kleidon(['visit', '/section/page-1', '--visitor', '{}', '--file', file]);
    expect(err).toBe('');
  });
});

test('help groups the commands by task', async () => {
  const { out } = await kleidon(['--help']);
  const headings = [...out.matchAll(/^(\S.*):\n {2}[a-z-]+ /gm)].map(([, heading]) => heading);
  expect(headings).toEqual([
    'See who reaches what',
    'Try addresses',
    'Work on the site file',
    'Put it live',
    'Watch the website',
    'Set up',
    'Examples',
  ]);
});

describe('completion', () => {
  const CASES: readonly [words: string, expected: string[]][] = [
    ['who', ['who-reaches']],
    ['release g', ['get']],
    ['visit --al', ['--all']],
    ['visit --expect m', ['missing']],
    [`visit --file ${SITE} --as v`, ['vik']],
    [`visit --file=${SITE} /crew/rota`, ['/crew/rota', '/crew/rota/swaps']],
    [`grid --file ${SITE} --under /permit/m`, ['/permit/map.pdf']],
    ["completion ''", ['bash', 'zsh', 'fish']],
    // Where nothing is known, the shell offers files.
    ["check --file ''", []],
    ["visit --as ''", []],
    ["visit --file /no/such/file --as ''", []],
    ["no-such-command ''", []],
  ];

  test('in bash, by the script that the command prints', async () => {
    const script = `
kleidon() { '${process.execPath}' '${KLEIDON}' "$@"; }
source <(kleidon completion bash)
complete_words() {
  COMP_WORDS=("$@"); COMP_CWORD=$(($# - 1)); _kleidon
  echo "\${COMPREPLY[*]}"
}
${CASES.map(([words]) => `complete_words kleidon ${words}`).join('\n')}`;
    const { stdout } = await run('bash', ['-c', script]);
    const found = stdout.split('\n').slice(0, CASES.length);
    expect(CASES.map(([words], i) => [words, found[i]])).toEqual(
      CASES.map(([words, expected]) => [words, expected.join(' ')]),
    );
  });

  test('is there for three shells, and for no others', async () => {
    for (const shell of ['bash', 'zsh', 'fish'])
      expect((await kleidon(['completion', shell])).out).toContain('completion candidates');
    const { code, err } = await kleidon(['completion', 'cmd']);
    expect([code, err]).toEqual([2, expect.stringContaining('bash, zsh, fish')]);
  });
});
