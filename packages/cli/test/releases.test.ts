import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Comparison, Kinds } from '@kleidon/client';
import { run, SAMPLE, temporaryFolder, type Running } from '../../service/test/running.ts';
import { json, kleidon } from './cli.ts';

const folder = temporaryFolder();
const sample = readFileSync(SAMPLE, 'utf8');
/** The sample site with the crew room for wardens alone, and a page that is called otherwise. */
const changed = join(folder.path, 'changed.site.yaml');
writeFileSync(
  changed,
  sample.replace('admit: crew\n', 'admit: role warden\n').replace('Terms of use', 'Terms'),
);
afterAll(() => folder.remove());

describe('comparing two site files', () => {
  const at = ['--at', '2026-11-23'];

  test('tells who loses what, by which rule, and what changes nothing for anyone', async () => {
    const { code, out, err } = await kleidon(['compare', SAMPLE, changed, ...at]);
    expect([code, err]).toEqual([0, '']);
    expect(out).toContain(
      `gate crew-room changed (line 122)
  − anyone with the role volunteer or ringer, except anyone with the role warden or administrator (vik, rhoda)
      pages reach (200) → block (403): /crew, /crew/rota, /crew/hide-keys, /crew/handbook.pdf
`,
    );
    expect(out).toContain('warden or administrator from 2027-06-01 (vik, rhoda)');
    expect(out).toContain('Without effect for anyone: page /terms changed.');
    expect(out).toMatch(/^2 changes, \d+ differences$/m);
  });

  test('is filtered by page, rule and visitor', async () => {
    const compare = (...more: string[]) =>
      json<Comparison>(['compare', SAMPLE, changed, ...at, ...more]);
    const page = await compare('--page', '/crew');
    expect(page.differences.map(({ about }) => about)).toEqual(['/crew', 'main: /crew']);
    // Whoever asks for the other address comes there too.
    expect((await compare('--page', '/rota')).differences.map(({ about }) => about)).toContain(
      '/crew/rota',
    );
    expect((await compare('--as', 'gale')).differences).toEqual([]);
    expect((await compare('--rule', 'page /terms')).differences).toEqual([]);
    const unknown = await kleidon(['compare', SAMPLE, changed, '--rule', 'gate swaps']);
    expect([unknown.code, unknown.err]).toEqual([
      2,
      '"gate swaps" did not change. What did: page /terms, gate crew-room.\n',
    ]);
  });

  test('a name that is none is said to be so', async () => {
    const { code, err } = await kleidon(['compare', 'livee', SAMPLE]);
    expect([code, err]).toEqual([2, expect.stringMatching(/livee can't be read|"livee" is no/)]);
  });
});

test('the kinds of visitors are listed, and are the columns of a grid', async () => {
  const { kinds } = await json<Kinds>(['kinds', '--under', '/permit', '--file', SAMPLE]);
  expect(kinds.map(({ name }) => name)).toEqual(['guest', 'signed-in', 'administrator']);
  const { out } = await kleidon(['kinds', '--under', '/permit', '--file', SAMPLE]);
  expect(out).toContain('guest guest: reaches 0 of 3 pages (gale)\n  guests\n');
  const grid = await kleidon(['grid', '--kinds', '--under', '/permit', '--file', SAMPLE]);
  expect(grid.out).toMatch(/^page +title +guest +signed-in +administrator$/m);
});

test('a report is one page with all of a site, in which nothing of the site file is code', async () => {
  const html = join(folder.path, 'report.html');
  const hostile = join(folder.path, 'hostile.site.yaml');
  writeFileSync(hostile, readFileSync(changed, 'utf8').replace('Terms', '<script>x</script>'));
  const { code, out } = await kleidon(['report', html, '--file', hostile, '--since', SAMPLE]);
  expect([code, out]).toEqual([0, `The report is in ${html}.\n`]);
  const text = readFileSync(html, 'utf8');
  expect(text).toContain('5 of 5 guarantees proved');
  expect(text).toContain('guests must never reach /crew and all beneath it');
  expect(text).toContain('Changes since');
  expect(text).toContain('anyone with the role volunteer or ringer');
  expect(text).toContain('&lt;script&gt;x&lt;/script&gt;');
  expect(text).not.toMatch(/<script|src=|href=|@import|url\(/);
  const refused = await kleidon(['report', join(folder.path, 'none', 'x.html'), '--file', SAMPLE]);
  expect([refused.code, refused.err]).toEqual([2, expect.stringContaining("can't be written")]);
});

describe('with a service', () => {
  const data = temporaryFolder();
  let service: Running;
  const to = (...args: string[]) =>
    kleidon(args, { env: { KLEIDON_SERVICE: service.address, KLEIDON_SITE: 'merrow' } });
  beforeAll(async () => {
    service = await run(data.path);
    await to('sites', 'add', SAMPLE, '--id', 'merrow');
  });
  afterAll(async () => {
    await service.end();
    data.remove();
  });

  test('a draft is compared with what is live, released with a note, and restored', async () => {
    const without = await to('release');
    expect([without.code, without.err]).toEqual([2, expect.stringContaining('--note')]);
    await to('release', '--note', 'First');
    await to('draft', 'put', changed, '--replaces', '1');
    expect((await to('compare', 'live', 'draft')).out).toContain('gate crew-room changed');
    expect((await to('compare', 'live', SAMPLE)).out).toContain('live and ');
    expect((await to('compare', 'version-1', 'draft', '--as', 'rhoda')).out).toContain('/crew');
    expect((await to('release', '--note', 'Wardens alone')).out).toContain(
      'gate crew-room changed: −',
    );
    const restored = await to('release', 'restore', '1', '--note', 'As it was');
    expect(restored.out).toMatch(/^Released 3 \(release 1 again\) at .*: As it was$/m);
    expect((await to('release', 'get', '3')).out).toBe(sample);
    expect((await to('release', 'restore', '9', '--note', 'x')).code).toBe(2);
    expect((await to('sites', 'add', SAMPLE, '--id', 'merrow')).err).toContain('--id NAME');
  });

  test('one that breaks a guarantee is refused, with the option that releases it all the same', async () => {
    const file = join(folder.path, 'broken.site.yaml');
    writeFileSync(
      file,
      'kleidon: 1\nsite: { name: B, address: https://b.example }\npages: { /: Home }\nguarantees: [{ who: guest, never: reach, at: / }]\n',
    );
    await to('sites', 'add', file, '--id', 'broken');
    const release = ['release', '--site', 'broken', '--note', 'First'];
    const { code, err } = await to(...release);
    expect([code, err]).toEqual([1, expect.stringContaining('with --override REASON.')]);
    expect((await to(...release, '--override', 'It opens today')).code).toBe(0);
    await to('sites', 'delete', 'broken', '--confirm', 'broken');
    expect((await to('sites', 'restore', 'broken')).out).toContain('Restored broken: B');
    await to('sites', 'delete', 'broken', '--confirm', 'broken');
  });

  test('one is set for a time, listed and cancelled', async () => {
    const set = await to('release', '--note', 'Later', '--at', '2077-03-01T09:00');
    expect(set.out).toBe('Version 2 of the draft is released at 2077-03-01T09:00:00.000Z: Later\n');
    expect((await to('release', 'list')).out).toContain('is released at 2077-03-01');
    const twice = await to('release', '--note', 'Later', '--at', '2078-03-01');
    expect([twice.code, twice.err]).toEqual([2, expect.stringContaining('is released at 2077')]);
    expect((await to('release', 'cancel')).out).toBe('The scheduled release is cancelled.\n');
    expect((await to('release', 'cancel')).code).toBe(2);
  });

  test('the history of the draft is listed, and a version restored', async () => {
    const { out } = await to('draft', 'history');
    expect(out).toMatch(/^2 at .*\(released as 2\)\n {2}Page \/terms: Terms\n/);
    expect((await to('draft', 'restore', '1')).out).toBe(
      'Version 1 is restored, as version 3 of merrow.\n',
    );
    expect((await to('draft', 'get')).out).toBe(sample);
  });
});
