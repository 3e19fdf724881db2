import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { execFileSync, spawnSync } from 'node:child_process';
import type { decisions } from '@kleidon/core';
import { KLEIDON, run, SAMPLE, temporaryFolder, type Running } from '../../service/test/running.ts';
import { json, kleidon } from './cli.ts';

const folder = temporaryFolder();
const write = (name: string, text: string | Buffer): string => {
  const path = join(folder.path, name);
  writeFileSync(path, text);
  return path;
};
afterAll(() => folder.remove());

const LIST = write('list.txt', '/latest\n/Rota.html\n');

const BROKEN = `kleidon: 1
site: { name: B, address: https://b.example, sing-in: /x }
pages:
  /a: { titel: A }
gates:
  g: { under: /a, admit: role king }
`;

describe('kleidon check', () => {
  test('says nothing is wrong with the sample site, and exits with 0', async () => {
    expect(await kleidon(['check', '--file', SAMPLE])).toEqual({
      code: 0,
      out: '0 errors, 0 findings, 5 guarantees proved\n',
      err: '',
    });
  });

  test('prints errors as compilers do, and exits with 1', async () => {
    const file = write('broken.yaml', BROKEN);
    const { code, out } = await kleidon(['check', '--file', file]);
    expect(code).toBe(1);
    expect(out).toContain(
      `${file}:2:46 error unknown-field\n  "sing-in" is not a field of site.\n  → Did you mean "sign-in"?`,
    );
    expect(out).toContain('3 errors');
    const { errors, findings } = await json<{ errors: object[]; findings: object[] }>([
      'check',
      '--file',
      file,
    ]);
    expect(errors[1]).toEqual({
      code: 'unknown-field',
      file,
      line: 4,
      column: 9,
      problem: {
        code: 'unknown-field',
        field: 'titel',
        of: 'a page',
        suggestion: { meant: 'title', known: [] },
      },
      message: '"titel" is not a field of a page.',
      remedy: 'Did you mean "title"?',
    });
    expect(findings).toEqual([]);
  });

  test('findings alone are no failure', async () => {
    const file = write(
      'found.yaml',
      'kleidon: 1\nsite: { name: F, address: https://f.example, sign-in: /in }\n',
    );
    const { code, out } = await kleidon(['check', '--file', file]);
    expect([code, out]).toEqual([0, expect.stringContaining('high sign-in-closed')]);
    const failing = (severity: string) => kleidon(['check', '--file', file, '--fail-on', severity]);
    expect([(await failing('high')).code, (await failing('low')).code]).toEqual([1, 1]);
  });

  test('a guarantee that does not hold is an error, with who shows it', async () => {
    const head =
      'kleidon: 1\nsite: { name: F, address: https://f.example }\nroles: { crew: Crew }\n';
    const rules = 'pages: { /: Home, /crew: C }\ngates: { g: { at: /crew, admit: role crew } }\n';
    const guarantee = (who: string): string =>
      `guarantees: [{ who: ${who}, never: reach, at: /crew }]\n`;
    const file = write('kept.yaml', head + rules + guarantee('guest'));
    expect(await kleidon(['check', '--file', file])).toMatchObject({
      code: 0,
      out: expect.stringContaining('1 guarantee proved') as string,
    });
    const report = join(folder.path, 'guarantees.xml');
    const broken = write('broken.yaml', head + rules + guarantee('signed-in'));
    const { code, out } = await kleidon(['check', '--file', broken, '--junit', report]);
    expect(code).toBe(1);
    expect(out).toContain(`${broken}:6:14 error guarantee-broken`);
    expect(out).toContain('/crew by someone (crew)');
    expect(readFileSync(report, 'utf8')).toMatch(
      /<testcase [^>]*must never reach \/crew[^>]*>\s*<failure/,
    );
  });

  test('verify makes the expected visits too, and names each in its report', async () => {
    const report = join(folder.path, 'verify.xml');
    const sample = readFileSync(SAMPLE, 'utf8');
    const verify = (text: string) =>
      kleidon(['verify', '--file', write('verified.yaml', text), '--junit', report]);
    const right = await verify(sample);
    expect([right.code, right.out.trim()]).toEqual([
      0,
      '0 errors, 0 findings, 5 guarantees proved, 3 of 3 visits as expected',
    ]);
    expect(readFileSync(report, 'utf8')).toMatch(/tests="8" failures="0"/);
    const wrong = await verify(
      sample.replace('hops: 1 }\n  - { address: /permit', 'hops: 2 }\n  - { address: /permit'),
    );
    expect(wrong.code).toBe(1);
    expect(wrong.out).toMatch(/verified\.yaml:\d+:5 visit-unexpected\n.*\n.*expected 2 redirects/);
    expect(readFileSync(report, 'utf8')).toMatch(
      /verified\.yaml:\d+:5 GET \/Rota\.html[^>]*>\s*<failure/,
    );
  });

  test('what counts as a failure is for the severity to say, and stands in a report', async () => {
    const file = write(
      "it's low.yaml",
      `kleidon: 1
site: { name: F, address: https://f.example, sign-in: /in }
pages: { /: Home, /in: In, /a: A }
gates: { g: { at: /a, admit: guest } }
redirects: [{ from: /x, to: /a, until: 2020-01-01 }]
`,
    );
    const report = join(folder.path, 'check.xml');
    const check = (...more: string[]) => kleidon(['check', '--file', file, ...more]);
    const { out, code } = await check('--fail-on', 'high', '--junit', report);
    expect([code, out]).toEqual([0, expect.stringContaining('low date-passed')]);
    expect(readFileSync(report, 'utf8')).toMatch(/<skipped message="[^"]*2020/);
    expect((await check('--fail-on', 'low', '--junit', report)).code).toBe(1);
    expect(readFileSync(report, 'utf8')).toMatch(/<failure message="[^"]*2020/);
    // The command that fixes it is pasted as it is.
    const command = /^ +kleidon (fix date-passed .*)$/m.exec(out)![1]!;
    const words = execFileSync('sh', ['-c', `printf '%s\\n' ${command}`], { encoding: 'utf8' });
    expect((await kleidon(words.trim().split('\n'))).code).toBe(0);
    expect((await check()).out).not.toContain('date-passed');
  });
});

describe('kleidon visit', () => {
  const visit = (...args: string[]) => kleidon(['visit', ...args, '--file', SAMPLE]);

  test('explains each hop as a person would', async () => {
    const { code, out } = await visit('/crew/rota', '--as', 'gale', '--at', '2026-11-23');
    expect(code).toBe(0);
    expect(out).toContain('gale asks for /crew/rota at 2026-11-23T00:00:00Z');
    expect(out).toContain('1. /crew/rota  303 → /sign-in?return=%2Fcrew%2Frota');
    expect(out).toMatch(
      /gate {6}The gate crew-room on \/crew and all beneath it admits crew, and Gale \(guest\) is not among them: asked to sign in\. \(line \d+\)/,
    );
    expect(out).toContain('? sign in: 200 at /sign-in?return=%2Fcrew%2Frota, after 1 redirect');
  });

  test('gives the whole visit as JSON', async () => {
    const made = await json<decisions.Visit>(['visit', '/hides', '--as', 'mia', '--file', SAMPLE]);
    expect(made).toMatchObject({
      visitor: 'mia',
      outcome: 'reach',
      status: 200,
      final: '/visit/hides',
    });
    expect(
      made.hops.map(({ address, decision }) => [
        address,
        decision.status,
        decision.location,
        decision.page,
      ]),
    ).toEqual([
      ['/hides', 301, '/visit/hides', null],
      ['/visit/hides', 200, null, '/visit/hides'],
    ]);
    const reasons = made.hops[0]!.decision.reasons;
    expect(reasons.at(-1)).toMatchObject({
      stage: 'redirect',
      rule: 'redirect /hides',
      verdict: 'redirected',
    });
  });

  test('takes a visitor made up on the spot', async () => {
    expect(
      (
        await visit(
          '/permit',
          '--visitor',
          '{ bought: [{ product: hide-permit }] }',
          '--expect',
          'reach',
        )
      ).code,
    ).toBe(0);
    const wrong = await visit('/permit', '--visitor', '{ roles: [wardn] }');
    expect([wrong.code, wrong.err]).toEqual([
      2,
      'No role is called "wardn". Did you mean "warden"?\n',
    ]);
  });

  test('exits with 1 when the visit does not end as expected', async () => {
    const { code, err } = await visit('/crew', '--as', 'gale', '--expect', 'reach');
    expect([code, err]).toEqual([1, 'Expected reach, and the visit ended as sign-in.\n']);
    expect((await visit('/crew', '--as', 'gale', '--expect', 'sign-in')).code).toBe(0);
  });

  test.each([
    [['/crew'], 'Say who: --as NAME'],
    [['/crew', '--as', 'nobody'], 'No visitor is called "nobody".'],
    [['/crew', '--as', 'gale', '--at', 'soon'], '"soon" is no date.'],
    [['/crew', '--as', 'gale', '--expect', 'joy'], 'Allowed choices are reach'],
    [[], "missing required argument 'address'"],
    [['/crew', '--colour'], "unknown option '--colour'"],
  ])('%j is wrong use', async (args, message) => {
    const { code, err, out } = await visit(...args);
    expect([code, out]).toEqual([2, '']);
    expect(err).toContain(message);
  });
});

describe('kleidon grid', () => {
  const COLUMNS = /page +gale +vik$/m;

  test('shows pages as a tree, a sign in each cell, and a legend in words; no colour in a pipe', async () => {
    const { out } = await kleidon([
      'grid',
      '--file',
      SAMPLE,
      '--visitor',
      'gale,vik',
      '--under',
      '/crew',
    ]);
    expect(out).toMatch(/page +title +gale +vik/);
    expect(out).toMatch(/^ {2}\/ringing-log +Ringing log +\? +×$/m);
    expect(out).toMatch(/^ {4}\/:entry/m);
    expect(out).toContain('? sign in     is asked to sign in (7)');
    expect(out).not.toContain('\u001b');
  });

  test('fits a terminal: narrow ones get the visitors in bands', () => {
    const { CI: _, NO_COLOR: __, ...env } = process.env;
    const asTerminal = { ...env, TERM: 'xterm-256color' };
    const script = `${process.execPath} ${KLEIDON} grid --file ${SAMPLE}`;
    const { stdout } = spawnSync(
      'script',
      ['-qec', `stty cols 60 rows 40; ${script}`, '/dev/null'],
      { encoding: 'utf8', env: asTerminal },
    );

    const lines = stdout.replace(/\u001b\[[\d;]*m/g, '').split(/\r?\n/);
    const table = lines.filter((line) => /^(page|\s*\/)/.test(line));
    expect(Math.max(...table.map(({ length }) => length))).toBeLessThanOrEqual(60);
    expect(lines.filter((line) => line.startsWith('page ')).length).toBeGreaterThan(1);
    expect(stdout).toContain('\u001b[');
    expect(lines.join('\n')).not.toMatch(COLUMNS);
  });

  test('shows only pages where someone meets an outcome', async () => {
    const { rows } = await json<decisions.Grid>(['grid', '--file', SAMPLE, '--outcome', 'loop']);
    expect(rows.map(({ address }) => address)).toEqual(['/staff', '/staff/door']);
  });

  test('says so when a filter leaves nothing, or names what is not there', async () => {
    expect((await kleidon(['grid', '--file', SAMPLE, '--under', '/nowhere'])).out).toContain(
      'No page fits.',
    );
    expect((await kleidon(['grid', '--file', SAMPLE, '--outcome', 'joy'])).code).toBe(2);
    expect((await kleidon(['grid', '--file', SAMPLE, '--visitor', 'joe'])).code).toBe(2);
    expect((await kleidon(['grid', '--file', '/nowhere.yaml'])).code).toBe(2);
    expect((await kleidon(['grid', '--file', write('b.yaml', BROKEN)])).code).toBe(1);
  });
});

describe('kleidon fix', () => {
  const CLOSED = `kleidon: 1
site: { name: M, address: https://m.example, sign-in: /sign-in } # kept
pages:
  /sign-in: Sign in
  /terms: Terms # kept too
gates:
  all: { under: /, admit: signed-in }
`;

  test('applies the remedy that check tells of, and nothing else', async () => {
    const file = write('m.site.yaml', CLOSED);
    const { out } = await kleidon(['check', '--file', file]);
    expect(out).toContain(`kleidon fix sign-in-closed --about 'page /sign-in' --file ${file}`);
    expect((await kleidon(['fix', 'sign-in-closed', '--file', file, '--dry-run'])).out).toContain(
      '1 finding would be fixed',
    );
    expect(readFileSync(file, 'utf8')).toBe(CLOSED);
    expect((await kleidon(['fix', 'sign-in-closed', '--file', file])).out).toContain(
      '1 finding fixed',
    );
    expect(readFileSync(file, 'utf8')).toBe(
      `${CLOSED}  sign-in-open: { at: /sign-in, admit: anyone }\n`,
    );
    await kleidon(['fix', 'legal-page-closed', '--file', file]);
    const codes = (
      await json<{ findings: { code: string }[] }>(['check', '--file', file])
    ).findings.map(({ code }) => code);
    expect(codes).toEqual(['open-beneath', 'open-beneath']);
  });

  test('keeps the file where the remedy would do something else too', async () => {
    const text = `kleidon: 1
site: { name: M, address: https://m.example, sign-in: /in }
pages: { /: Home, /in: In, /terms: Terms, /blog/new: New }
redirects:
  - from: /blog/*
    to: /in
`;
    // The gate that the remedy adds would come second.
    const closed = `${text}gates: { closed: { at: /terms, admit: signed-in, rank: 1 } }\n`;
    const file = write('m3.site.yaml', closed);
    const { code, err } = await kleidon(['fix', 'legal-page-closed', '--file', file]);
    expect(code).toBe(1);
    expect(err).toMatch(/^Nothing was changed in .* (?:The finding would remain|Another finding)/);
    expect(readFileSync(file, 'utf8')).toBe(closed);
    // In block style, the remedy is a line of the entry.
    const plain = write('m4.site.yaml', text);
    await kleidon(['fix', 'redirect-hides-page', '--file', plain]);
    expect(readFileSync(plain, 'utf8')).toBe(
      text.replace('to: /in\n', 'to: /in\n    unless-page: yes\n'),
    );
  });

  test('accepts a finding with a note', async () => {
    const file = write('m2.site.yaml', CLOSED.replace('/terms: Terms', '/x: X'));
    await kleidon(['fix', 'sign-in-closed', '--file', file]);
    expect(
      (await kleidon(['fix', 'open-beneath', '--accept', 'Meant so', '--file', file])).out,
    ).toContain('1 finding accepted');
    expect(await kleidon(['check', '--file', file])).toMatchObject({
      out: '0 errors, 0 findings\n',
    });
    expect(readFileSync(file, 'utf8')).toContain('note: Meant so');
    const none = await kleidon(['fix', 'tie', '--file', file]);
    expect([none.code, none.err]).toEqual([
      2,
      'There is no such finding: tie. Those that there are: none.\n',
    ]);
  });
});

describe('who reaches what', () => {
  const ask = (...args: string[]) => kleidon([...args, '--file', SAMPLE]);

  test('kleidon who-reaches says it in words', async () => {
    const { out } = await ask('who-reaches', '/permit/map.pdf');
    expect(out).toContain(
      '/permit/map.pdf Map of the hides is reached by buyers of Hide permit while it is in force; and anyone with the role volunteer, ringer or warden.',
    );
    expect(out).toContain('By full access: anyone with the role administrator.');
    expect((await ask('who-reaches', '/spring-count', '--at', '2026-12-01')).out).toContain(
      'It opens on 2027-03-01.',
    );
    expect((await ask('who-reaches', '/spring-count', '--at', '2027-04-01')).out).toContain(
      'is reached by everyone.',
    );
    expect((await ask('who-reaches', '/none')).code).toBe(2);
  });

  test('kleidon reached-by lists what someone reaches, and where everything else leaves them', async () => {
    const { out } = await ask('reached-by', '--as', 'lars', '--at', '2026-11-23');
    expect(out).toMatch(/● \/shop\/hide-permit +Hide permit/);
    expect(out).toMatch(/× \/permit +block, 200 at \/shop\/hide-permit/);
    expect((await ask('reached-by')).err).toContain('Say who');
  });

  test('kleidon landing decides where someone is taken', async () => {
    const { out } = await ask(
      'landing',
      '--after',
      'sign-in',
      '--as',
      'wren',
      '--from',
      '/crew/hide-keys',
    );
    expect(out).toMatch(
      /^They land at \/crew\/rota: the landing after sign-in leads there\. \(line \d+\)$/m,
    );
    expect((await ask('landing', '--as', 'wren')).code).toBe(2);
  });

  test('kleidon schema prints the JSON Schema of site files', async () => {
    const schema = JSON.parse((await kleidon(['schema'])).out) as { properties: object };
    expect(Object.keys(schema.properties)).toContain('gates');
  });

  test('kleidon visible tells which links and parts to show', async () => {
    const { out } = await ask('visible', '/', '/crew', '--as', 'mia');
    expect(out.split('\n').slice(0, 6)).toEqual([
      'visible  part latest-photos',
      'hidden   part crew-notices',
      'hidden   part way-in',
      'visible  part way-out',
      'visible  / reach',
      'hidden   /crew block',
    ]);
    expect(out).toContain('hidden   menu main /trustees missing\n');
    expect(out).toContain('visible  menu foot /tides away\n');
  });
});

describe('with a service', () => {
  const data = temporaryFolder();
  let service: Running;
  let env: Record<string, string>;
  const to = (...args: string[]) => kleidon(args, { env });

  beforeAll(async () => {
    service = await run(data.path);
    env = { KLEIDON_SERVICE: service.address };
  });
  afterAll(async () => {
    await service.end();
    data.remove();
  });

  test('a site is added, worked on and released; file, API and release answer alike', async () => {
    expect((await to('sites')).out).toContain('No sites yet.');
    expect((await to('grid')).err).toContain('kleidon sites add FILE');
    expect((await to('sites', 'add', SAMPLE, '--id', 'merrow')).out).toContain(
      'merrow: Merrow Point Bird Observatory, draft version 1, never released',
    );
    expect((await to('sites', 'add', SAMPLE, '--id', 'merrow')).code).toBe(2);

    const text = (await to('draft', 'get')).out;
    expect(text).toBe(readFileSync(SAMPLE, 'utf8'));
    const edited = write('edited.yaml', text.replace('title: Handbook', 'title: The handbook'));
    expect((await to('draft', 'put', edited)).code).toBe(2);
    expect((await to('draft', 'put', edited, '--replaces', '1')).out).toContain(
      'Saved as version 2',
    );
    const late = await to('draft', 'put', SAMPLE, '--replaces', '1');
    expect([late.code, late.err]).toEqual([1, expect.stringContaining('version 2 was saved at')]);
    expect((await to('draft', 'put', SAMPLE, '--overwrite')).out).toContain('Saved as version 3');

    expect((await to('grid', '--state', 'live')).err).toContain('has not been released yet');
    expect((await to('release', '--note', 'First')).out).toMatch(
      /^Released 1 \(draft version 3\) at .*: First$/m,
    );
    expect((await to('release', 'list')).out).toContain('First');
    expect((await to('release', 'get', '1')).out).toBe(text);

    const args = ['grid', '--at', '2026-11-23'];
    const fromFile = await json<decisions.Grid>([...args, '--file', SAMPLE]);
    expect(await json<decisions.Grid>(args, { env })).toEqual(fromFile);
    expect(await json<decisions.Grid>([...args, '--state', '1'], { env })).toEqual(fromFile);
    const asked = ['visit', '/crew/rota', '--as', 'gale', '--at', '2026-11-23'];
    const questions = [
      asked,
      ['who-reaches', '/crew'],
      ['reached-by', '--as', 'vik', '--at', '2026-11-23'],
      ['landing', '--after', 'sign-in', '--as', 'mia', '--from', '/journal', '--at', '2026-11-23'],
      ['visible', '/crew', '--visitor', '{ roles: [warden] }'],
      ['suggest', '/crew/rotta', '--as', 'wren'],
      ['visit-list', LIST, '--as', 'vik', '--at', '2026-11-23'],
    ];
    const both = questions.map(async (question) => [
      await json(question, { env }),
      await json([...question, '--file', SAMPLE]),
    ]);
    for (const [fromService, alone] of await Promise.all(both)) expect(fromService).toEqual(alone);
    expect(
      (
        await to(
          'visit',
          '/permit',
          '--visitor',
          '{ bought: [{ product: hide-permit }] }',
          '--expect',
          'reach',
        )
      ).code,
    ).toBe(0);
    expect(await json(['check'], { env })).toMatchObject({
      errors: [],
      findings: [],
      guarantees: Array.from({ length: 5 }, () => ({ is: 'proved' })),
    });
  }, 180_000);

  test("a draft with errors is told to be so, and can't be released", async () => {
    await to('sites', 'add', write('b2.yaml', BROKEN), '--id', 'broken');
    expect((await to('grid')).err).toContain(
      'several sites; say which with --site: broken, merrow',
    );
    const refused = await to('release', '--note', 'x', '--site', 'broken');
    expect([refused.code, refused.err]).toEqual([
      1,
      expect.stringContaining('Did you mean "sign-in"?'),
    ]);
    expect((await to('check', '--site', 'broken')).code).toBe(1);
    expect((await to('draft', 'get', '--site', 'none')).err).toContain(
      'There is no site "none". Sites: ',
    );
  });

  test('a taken port is a clear error that names the option to change it', async () => {
    const { port } = new URL(service.address);
    const { code, err } = await kleidon([
      ...['serve', '--port', port, '--data', join(folder.path, 'other')],
    ]);
    expect([code, err]).toEqual([
      2,
      `Port ${port} of 127.0.0.1 is taken. Choose another with --port NUMBER, or any free one with --port 0.\n`,
    ]);
  });

  test('a data folder that can not be made is a clear error, whatever stands in the way', async () => {
    // In /proc no folder can be made, and the system says why as if /proc itself were not there.
    for (const data of ['/proc/none', join(write('a-file', ''), 'below')]) {
      const { code, err } = await kleidon(['serve', '--port', '0', '--data', data]);
      expect([code, err]).toEqual([
        2,
        expect.stringMatching(
          /^The service can't start with the data folder .*: .*Choose another with --data FOLDER\.\n$/,
        ),
      ]);
    }
  });

  test('without a service the exit code is 3, and the message says what to do', async () => {
    const { code, err } = await kleidon(['sites', '--service', 'http://127.0.0.1:9']);
    expect([code, err]).toEqual([
      3,
      'The service at http://127.0.0.1:9 can\'t be reached. Start it with "kleidon serve", or name another with --service.\n',
    ]);
  });
});

describe('kleidon suggest', () => {
  test('tells what may have been meant, and nothing that is kept from the visitor', async () => {
    const ask = async (address: string, as: string): Promise<string> =>
      (await kleidon(['suggest', address, '--as', as, '--file', SAMPLE])).out;
    expect((await ask('/crew/rotta', 'wren')).split('\n')[0]).toBe('/crew/rota Rota');
    expect(await ask('/old/hide-keys', 'vik')).toBe('/crew/hide-keys Where the keys are\n');
    expect(await ask('/old/hide-keys', 'gale')).toBe('Nothing is close to it.\n');
    // Open to everyone, and kept out of search engines: not to be found by guessing either.
    expect(await ask('/registr', 'gale')).not.toContain('register');
  });
});

describe('kleidon visit-list', () => {
  test('tells where each address ends, as a table and as CSV', async () => {
    const command = ['visit-list', '-', '--as', 'gale', '--file', SAMPLE];
    const input = '/birds\n\n"/latest",a note\n/crew~x\n';
    const { out } = await kleidon(command, { input });
    expect(out.split('\n').slice(1)).toEqual([
      '/birds   gale     ● reach 200    1     /sightings',
      '/latest  gale     ● reach 200    2     /sightings',
      '/crew~x  gale     · missing 404  0     /crew~x',
      '3 visits',
      '',
    ]);
    expect((await kleidon([...command, '--csv'], { input })).out).toBe(
      'address,visitor,outcome,status,final,hops\r\n/birds,gale,reach,200,/sightings,1\r\n/latest,gale,reach,200,/sightings,2\r\n/crew~x,gale,missing,404,/crew~x,0\r\n',
    );
  });
});

describe('help', () => {
  test.each([
    'who-reaches',
    'reached-by',
    'landing',
    'visible',
    'fix',
    'serve',
    'check',
    'visit',
    'visit-list',
    'suggest',
    'grid',
    'sites add',
    'draft put',
    'release make',
    'import sitemap',
    'import crawl',
    'import csv',
    'export sitemap',
    'export robots',
    'export redirects',
  ])('%s has examples', async (command) => {
    const { code, out } = await kleidon([...command.split(' '), '--help']);
    expect([code, out]).toEqual([0, expect.stringMatching(/Examples?:\n {2}kleidon /)]);
  });

  test('exit codes are told', async () => {
    expect((await kleidon(['--help'])).out).toContain("3 the service can't be reached");
    expect((await kleidon([])).code).toBe(2);
    expect((await kleidon(['fly'])).code).toBe(2);
  });
});
