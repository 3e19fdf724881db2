import { evaluate } from '../src/condition/evaluate.ts';
import { findFindings } from '../src/findings/findings.ts';
import type { model } from '../src/index.ts';
import type { FindingDraft, People } from '../src/model/finding.ts';
import { EVERYONE, randomSites, SEED, SITES } from './reference/everyone.ts';
import {
  add,
  byTrial,
  isPlain,
  type Found,
  type Prepared,
  type Redirect,
} from './reference/found-by-trial.ts';
import { chance, randomBy } from './reference/random-site.ts';
import { NOW } from './support.ts';

/** What is found without visiting. */
function byRules(prepared: Prepared): Found {
  const found: Found = new Map();
  const redirects = new Map(prepared.site.redirects.map((one) => [one.place.line, one]));
  for (const draft of findFindings(prepared, NOW)) addDraft(prepared, draft, redirects, found);
  return found;
}

function addDraft(
  prepared: Prepared,
  draft: FindingDraft,
  redirects: ReadonlyMap<number, Redirect>,
  found: Found,
): void {
  const { line } = draft.place;
  const meant = (who: People): model.Visitor[] => peopleAmong(who, prepared);
  switch (draft.code) {
    case 'landing-closed': {
      const { after, address, who } = draft.values;
      add(found, `landing-closed ${after} ${address}`, ...meant(who));
      break;
    }
    case 'sign-in-closed':
      add(found, 'sign-in-closed');
      break;
    case 'redirect-loop':
      add(found, `redirect-loop ${line}`, ...meant(draft.values.who));
      break;
    case 'redirect-dead-end':
      if (isPlain(redirects.get(line)!)) add(found, `redirect-dead-end ${line}`);
      break;
    case 'menu-leads-nowhere':
      for (const { link, who } of draft.values.links)
        add(found, `menu-leads-nowhere ${draft.values.menu} ${link}`, ...meant(who));
      break;
    case 'sends-to-closed': {
      const { gate, to, who } = draft.values;
      add(found, `sends-to-closed ${gate} ${to}`, ...(who === null ? [] : meant(who)));
      break;
    }
    case 'change-without-view':
      add(found, `change-without-view ${draft.values.gate}`);
      break;
    case 'open-beneath':
      add(found, `open-beneath ${draft.values.gate}`);
      break;
    case 'redirect-to-closed':
      add(found, `redirect-to-closed ${line}`, ...meant(draft.values.who));
      break;
    case 'offers-nothing':
      add(found, `offers-nothing ${draft.values.gate}`);
      break;
    case 'rewrite-round-gate':
      add(found, `rewrite-round-gate ${line} ${draft.values.gate}`, ...meant(draft.values.who));
      break;
    case 'otherwise-unused':
      add(found, `otherwise-unused ${draft.values.gate} ${draft.values.entry}`);
      break;
    case 'redirect-hides-page':
      for (const page of draft.values.pages) add(found, `redirect-hides-page ${line} ${page}`);
      break;
    case 'nobody-reaches':
      if (!/[:*]/.test(draft.values.page)) add(found, `nobody-reaches ${draft.values.page}`);
      break;
  }
}

const peopleAmong = (who: People, { names }: Prepared): model.Visitor[] =>
  who === 'everyone'
    ? [...EVERYONE]
    : EVERYONE.filter((visitor) =>
        evaluate(who.condition, { visitor, at: NOW, path: {}, query: '' }, names),
      );

/** Findings that say whom they are about: exactly those. */
const NAMES_PEOPLE =
  /^(?:landing-closed sign-in|redirect-loop|redirect-to-closed|rewrite-round-gate|menu-leads-nowhere) /;

test('each finding about all visitors is true, and none is missing', () => {
  let count = 0;
  for (const [prepared, text] of randomSites(chance(randomBy(SEED)), SITES / 4)) {
    const [tried, ruled] = [byTrial(prepared), byRules(prepared)];
    const told = (found: Found) =>
      [...found]
        .map(([key, visitors]) => [
          key,
          NAMES_PEOPLE.test(key) ? EVERYONE.filter((one) => visitors.has(one)).length : null,
        ])
        .sort();
    const [expected, actual] = [told(tried), told(ruled)].map((one) =>
      JSON.stringify(one, null, 1),
    );
    if (actual !== expected) throw new Error(`${actual}\n instead of \n${expected}\n${text}`);
    count += tried.size;
  }
  expect(count).toBeGreaterThan(20);
});
