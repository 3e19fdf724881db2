import { readFileSync } from 'node:fs';
import { MessageChannel } from 'node:worker_threads';
import pino from 'pino';
import { decisions, siteFiles } from '@kleidon/core';
import type { Analyses } from '../src/analysis/analyses.ts';
import { liveSites } from '../src/analysis/live-sites.ts';
import { partsOf, siteFrom } from '../src/analysis/site-parts.ts';
import { SAMPLE } from './running.ts';

const readSite = (text: string) => {
  const read = siteFiles.readSite(text, 'x.yaml');
  if (!read.ok) throw new Error(JSON.stringify(read.errors));
  return read.site;
};
const SAMPLE_SITE = readSite(readFileSync(SAMPLE, 'utf8'));
/** Long enough for many parts. */
const large = (name: string) =>
  readSite(
    `kleidon: 1\nsite: { name: ${name}, address: https://l.example }\npages:\n  /: Home\n${Array.from({ length: 1000 }, (_, i) => `  /p${i}: P\n`).join('')}redirects:\n${Array.from({ length: 300 }, (_, i) => `  - { from: /r${i}, to: /p${i} }\n`).join('')}`,
  );

test.each([
  ['the sample site', SAMPLE_SITE],
  ['a large one', large('L')],
])('%s is the same once it was taken apart and put together', (_, site) => {
  const parts = [...partsOf(site)].map((part) => structuredClone(part));
  const together = siteFrom(() => parts.shift());
  let step = together.next();
  while (!step.done) step = together.next();
  expect(step.value).toEqual(site);
});

/** A service whose releases are told by their numbers. */
function stage() {
  const state = { number: null as number | null, fails: false, asked: [] as string[] };
  const waiting: (() => void)[] = [];
  const analyses = {
    task: async (_: string, __: string, input: { state: string }) => {
      state.asked.push(input.state);
      await new Promise<void>((resolve) => waiting.push(resolve));
      if (state.fails) throw new Error('no thread');
      const { port1, port2 } = new MessageChannel();
      for (const part of partsOf(large(`of-${input.state}`))) port1.postMessage(part);
      port1.close();
      return port2;
    },
  } as unknown as Analyses;
  const lines: string[] = [];
  const live = liveSites(
    { liveNumber: () => state.number },
    analyses,
    (site) => site === 'served',
    pino({}, { write: (line) => void lines.push(line) }),
  );
  const name = (): string | undefined => live.of('served')?.site.name;
  return { state, live, lines, name, letGo: () => waiting.splice(0).forEach((go) => go()) };
}

test('a release is in force at once where it was prepared ahead', async () => {
  const { state, live, name, letGo } = stage();
  expect(name()).toBeUndefined();
  const ahead = live.ahead('served', 'draft');
  letGo();
  const inForce = await ahead;
  expect(name()).toBeUndefined();
  state.number = 1;
  inForce(1);
  expect([name(), state.asked]).toEqual(['of-draft', ['draft']]);
  // Nothing is prepared for a site without a gateway.
  (await live.ahead('other', 'draft'))(1);
  expect(state.asked).toEqual(['draft']);
});

test('until another release is prepared, the one before is in force; without any, none is', async () => {
  const { state, live, name, letGo } = stage();
  state.number = 1;
  const first = live.ready('served');
  expect(name()).toBeUndefined();
  letGo();
  await first;
  expect(name()).toBe('of-1');
  state.number = 2;
  expect([name(), name(), name()]).toEqual(['of-1', 'of-1', 'of-1']);
  const second = live.ready('served');
  letGo();
  await second;
  expect([name(), state.asked]).toEqual(['of-2', ['1', '2']]);
  // Deleted, and restored: what was in force before may have changed meanwhile.
  state.number = null;
  expect(name()).toBeUndefined();
  state.number = 2;
  expect(name()).toBeUndefined();
});

test('a release that can not be prepared is logged, and the one before stays in force', async () => {
  const { state, live, lines, name, letGo } = stage();
  state.number = 1;
  const first = live.ready('served');
  letGo();
  await first;
  [state.number, state.fails] = [2, true];
  const second = live.ready('served');
  letGo();
  await second;
  expect(name()).toBe('of-1');
  expect(lines).toHaveLength(1);
  expect(JSON.parse(lines[0]!)).toMatchObject({ site: 'served', number: 2 });
  // It is not asked for at every request.
  expect([name(), state.asked]).toEqual(['of-1', ['1', '2']]);
});

test('what is prepared in steps is what is prepared at once', () => {
  for (const site of [SAMPLE_SITE, large('L')]) {
    const steps = decisions.prepareInSteps(site);
    let count = 0;
    let step = steps.next();
    for (; !step.done; step = steps.next()) count++;
    const { folded, ...prepared } = step.value;
    const { folded: foldedLater, ...atOnce } = decisions.prepareSite(site);
    expect(prepared).toEqual(atOnce);
    expect(folded()).toEqual(foldedLater());
    if (site !== SAMPLE_SITE) expect(count).toBeGreaterThan(10);
  }
});
