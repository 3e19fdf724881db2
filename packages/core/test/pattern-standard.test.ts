import { chromium, type Browser } from 'playwright-core';
import fc from 'fast-check';
import { URLPattern as Polyfill } from 'urlpattern-polyfill';
import { buildIndex, lookUp } from '../src/pattern/pattern-index.ts';
import { parsePattern } from '../src/pattern/parse.ts';
import { CHROMIUM } from './chromium.ts';
import { PatternSyntaxError } from '../src/pattern/pattern-syntax-error.ts';
import { expectEqual } from './support.ts';

/**
 * Patterns beside two independent implementations of the URL Pattern Standard: a JavaScript one and
 * the browser's own. Each pair is matched through the index, as decisions do.
 */
interface Pair {
  readonly pattern: string;
  readonly path: string;
}

type Verdict = Record<string, string> | 'no match' | 'refused';

const PIECES = [
  '/a',
  '/b',
  '/abc',
  '/a-b',
  '/:x',
  '/:y',
  '/:num(\\d+)',
  '/(a|b)',
  '/*',
  '*',
  '/:x?',
  '/:rest*',
  '/:rest+',
  '{/a}?',
  '{/b}*',
  '{/:z}?',
  '/pre-:p',
  '/:s.html',
  '/v:major.:minor',
  '{/:k-end}?',
  '/x:w(ab+)',
  '(.*)',
  '/:o(a|bc)?',
  '/\\:c',
  '/{d}',
  '{.:ext}?',
  '/:q([^\\/]+?)',
  '/:bad([^/]+?)',
  '/:deep(.+)',
  ':tail',
  '+',
  '?',
  '(',
  '}',
];
const SEGMENTS = [
  'a',
  'b',
  'abc',
  'a-b',
  '12',
  'x.html',
  'pre-1',
  'v1.2',
  'q-end',
  'xabb',
  ':c',
  'd',
  'bc',
  '',
];

const pairs = (count: number, seed: number): Pair[] =>
  fc.sample(
    fc.record({
      pattern: fc
        .array(fc.constantFrom(...PIECES), { minLength: 1, maxLength: 4 })
        .map((pieces) => pieces.join('')),
      path: fc
        .array(fc.constantFrom(...SEGMENTS), { minLength: 1, maxLength: 4 })
        .map((all) => `/${all.join('/')}`)
        // The implementations take what stands behind two slashes at the front for a host.
        .filter((path) => !path.startsWith('//')),
    }),
    { numRuns: count, seed },
  );

function ours({ pattern, path }: Pair): Verdict {
  try {
    const parsed = parsePattern(pattern);
    const index = buildIndex([
      {
        rule: 0,
        pattern: parsed,
        under: false,
        rank: 0,
        fields: 0,
        values: 0,
        conditional: false,
        name: '',
      },
    ]);
    return lookUp(index, path)[0]?.groups ?? 'no match';
  } catch (error) {
    if (error instanceof PatternSyntaxError) return 'refused';
    throw error;
  }
}

/** Runs in Node with the polyfill and, sent as text, in the browser with its own class. */
function theirs(Standard: typeof Polyfill, { pattern, path }: Pair): Verdict {
  let compiled;
  try {
    compiled = new Standard({ pathname: pattern });
  } catch {
    return 'refused';
  }
  const result = compiled.exec({ pathname: path });
  if (!result) return 'no match';
  const entries = Object.entries(result.pathname.groups as Record<string, string | undefined>);
  return Object.fromEntries(
    entries.filter((entry): entry is [string, string] => entry[1] !== undefined),
  );
}

/** The JavaScript implementation gives an empty text where the standard has a group take no part. */
const withoutEmpty = (verdict: Verdict): Verdict =>
  typeof verdict === 'string'
    ? verdict
    : Object.fromEntries(Object.entries(verdict).filter(([, value]) => value !== ''));

describe('patterns agree with the URL Pattern Standard', () => {
  let browser: Browser;
  beforeAll(async () => {
    browser = await chromium.launch(CHROMIUM);
  });
  afterAll(() => browser.close());

  test('on 6,000 pairs with the implementation in JavaScript', () => {
    const tally = { matched: 0, refused: 0 };
    // It compiles custom groups with an older flag, and so takes a slash in a class.
    for (const pair of pairs(6_000, 1).filter(({ pattern }) => !pattern.includes(':bad'))) {
      const verdict = ours(pair);
      const standard = withoutEmpty(theirs(Polyfill, pair));
      expectEqual({ ...pair, verdict: withoutEmpty(verdict) }, { ...pair, verdict: standard });
      if (verdict === 'refused') tally.refused++;
      else if (verdict !== 'no match') tally.matched++;
    }
    // The pairs are worth nothing if they all miss.
    expect(tally.matched).toBeGreaterThan(500);
    expect(tally.refused).toBeGreaterThan(500);
  });

  test('on 6,000 pairs with the one in the browser', async () => {
    const page = await browser.newPage();
    const sample = pairs(6_000, 2);
    const verdicts = await page.evaluate(
      ([source, all]) => {
        // The page gets the text of the very function that asks the other implementation.
        // eslint-disable-next-line @typescript-eslint/no-implied-eval, @typescript-eslint/no-unsafe-call
        const decide = new Function(`return ${source}`)() as (
          standard: unknown,
          pair: unknown,
        ) => unknown;
        return all.map((pair) => decide((globalThis as { URLPattern?: unknown }).URLPattern, pair));
      },
      [theirs.toString(), sample] as const,
    );
    sample.forEach((pair, i) => {
      expectEqual({ ...pair, verdict: ours(pair) }, { ...pair, verdict: verdicts[i] });
    });
  });
});
