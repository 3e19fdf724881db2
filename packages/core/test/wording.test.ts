import { isDeepStrictEqual } from 'node:util';
import { decisions, queries, siteFiles } from '../src/index.ts';
import { asText, asVisitor } from './reference/as-core.ts';
import { chance, randomBy } from './reference/random-site.ts';
import { NOW } from './support.ts';

test('every reason of a visit has a whole sentence, and values that are plain', () => {
  const by = chance(randomBy(5));
  const codes = new Set<string>();
  const wrong: unknown[] = [];
  for (let made = 0; made < 400; made++) {
    const read = siteFiles.readSite(asText(by.site()), 'random.yaml');
    if (!read.ok) continue;
    const prepared = decisions.prepareSite(read.site);
    for (let i = 0; i < 5; i++) {
      const request = { method: by.method(), address: by.address() };
      const made = decisions.visit(prepared, request, asVisitor(by.person()), NOW);
      for (const { decision } of queries.explainVisit(prepared, made).hops)
        for (const reason of decision.reasons) {
          codes.add(reason.code);
          const { text } = reason;
          if (!/^\S.*\.$/.test(text) || /undefined|null|NaN|\[object/.test(text))
            wrong.push(reason);
          if (!isDeepStrictEqual(JSON.parse(JSON.stringify(reason)), reason)) wrong.push(reason);
        }
    }
  }
  expect(wrong).toEqual([]);
  expect(codes.size).toBeGreaterThan(39);
});
