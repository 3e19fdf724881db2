import { isDeepStrictEqual } from 'node:util';
import { parse } from 'yaml';
import { decisions, type model, queries, siteFiles } from '../src/index.ts';
import { asText } from './reference/as-core.ts';
import { PairCounter, report } from './reference/pairs.ts';
import { chance, randomBy } from './reference/random-site.ts';
import { randomDocument, type RandomDocument, type Value } from './reference/random-yaml.ts';
import { NOW } from './support.ts';

/**
 * Random edits of random documents in every style. Either the result has the intended value and all comments, or the edit
 * is refused. An independent model computes the intended value of a patch. An edit of the console must come to the same
 * in every style.
 */

const EDITS = Number(process.env['KLEIDON_EDITS'] ?? 600);
const LEAST = EDITS >= 50_000 ? 20 : 0;
/** They take longer: a site file each, and a check of it for a fix. */
const CONSOLE_EDITS = EDITS / 4;
const FIXES = 0.06;
const random = randomBy(Number(process.env['KLEIDON_SEED'] ?? 1));
const one = <T>(...of: readonly T[]): T => of[Math.floor(random() * of.length)]!;

const DIMENSIONS = {
  style: ['block', 'flow', 'mixed', 'json'],
  document: [
    'comment head',
    'comment first',
    'comment above',
    'comment behind',
    'comment in flow',
    'comment at the end',
    'anchor',
    'alias',
    'quotes',
    'CRLF',
    'empty section',
    'block scalar',
    'several lines',
    'explicit key',
  ],
  edit: ['add', 'add to a list', 'replace', 'remove', 'rename', 'move', 'copy', 'several'],
};
const OF_CONSOLE = {
  ...DIMENSIONS,
  edit: ['put', 'remove', 'put-item', 'put-items', 'rename', 'move-page', 'copy-settings', 'fix'],
};

/** Jest's own objects are none of the platform's. */
const clone = (value: unknown): unknown => JSON.parse(JSON.stringify(value));

type Steps = readonly string[];
type Holder = Record<string, unknown>;
const pointer = (steps: Steps): string =>
  steps.map((step) => `/${step.replaceAll('~', '~0').replaceAll('/', '~1')}`).join('');
const at = (root: unknown, steps: Steps): unknown =>
  steps.reduce<unknown>((value, step) => (value as Holder)[step], root);
const isOpen = (value: unknown): value is Holder => typeof value === 'object' && value !== null;
const define = (holder: Holder, name: string, value: unknown): void =>
  void Object.defineProperty(holder, name, {
    value,
    enumerable: true,
    writable: true,
    configurable: true,
  });

/** The ways to all values of a document. */
function waysIn(value: unknown, way: Steps = []): Steps[] {
  if (!isOpen(value)) return [];
  return Object.keys(value).flatMap((name) => [
    [...way, name],
    ...waysIn(value[name], [...way, name]),
  ]);
}

interface Made {
  readonly does: string;
  readonly operation: model.PatchOperation;
  /** What is replaced or removed. */
  readonly touched: Steps | null;
}

/** An edit that fits a value, made in the value. */
function editOf(root: Record<string, unknown>, values: readonly Value[]): Made {
  const ways = waysIn(root);
  const value = clone(one(...values));
  const holders: Steps[] = [[], ...ways.filter((way) => isOpen(at(root, way)))];
  const above = one(...holders);
  const holder = at(root, above) as Holder;
  const add = (does: string, path: (name: string) => model.PatchOperation): Made => {
    if (Array.isArray(holder)) {
      const place = Math.floor(random() * (holder.length + 1));
      holder.splice(place, 0, value);
      return {
        does: does === 'add' ? 'add to a list' : does,
        operation: path(place === holder.length - 1 && random() < 0.7 ? '-' : String(place)),
        touched: null,
      };
    }
    const name = one('new', 'x: y', '/new/:a', '', '-', '0', 'site', '__proto__');
    const isThere = Object.hasOwn(holder, name);
    define(holder, name, value);
    return { does, operation: path(name), touched: isThere ? [...above, name] : null };
  };
  const fresh = (): Made =>
    add('add', (name) => ({ op: 'add', path: pointer([...above, name]), value: clone(value) }));
  if (ways.length === 0) return fresh();
  const way = one(...ways);
  const parent = at(root, way.slice(0, -1)) as Holder;
  const last = way.at(-1)!;
  const path = pointer(way);
  const take = (): unknown => {
    const taken = parent[last];
    if (Array.isArray(parent)) parent.splice(Number(last), 1);
    else Reflect.deleteProperty(parent, last);
    return taken;
  };
  return one<() => Made>(
    fresh,
    fresh,
    () => {
      define(parent, last, value);
      return {
        does: 'replace',
        operation: { op: 'replace', path, value: clone(value) },
        touched: way,
      };
    },
    () => {
      take();
      return { does: 'remove', operation: { op: 'remove', path }, touched: way };
    },
    () => {
      const name = `to ${last}`;
      if (Array.isArray(parent) || Object.hasOwn(parent, name)) return fresh();
      define(parent, name, take());
      const to = pointer([...way.slice(0, -1), name]);
      return { does: 'rename', operation: { op: 'move', from: path, path: to }, touched: null };
    },
    () => {
      const name = 'moved';
      if (Object.hasOwn(root, name) || way.length === 1) return fresh();
      define(root, name, take());
      return { does: 'move', operation: { op: 'move', from: path, path: '/moved' }, touched: way };
    },
    () => {
      if (Object.hasOwn(root, 'copied')) return fresh();
      define(root, 'copied', clone(parent[last]));
      return {
        does: 'copy',
        operation: { op: 'copy', from: path, path: '/copied' },
        touched: null,
      };
    },
  )();
}

const isUnder = (owner: Steps, touched: Steps): boolean =>
  touched.every((step, i) => owner[i] === step);

test('an edit of any document is what it says, and keeps comments, or is refused', () => {
  const pairs = new PairCounter(DIMENSIONS);
  const wrong: unknown[] = [];
  const counts = { documents: 0, edits: 0, refused: 0 };
  while (counts.edits < EDITS) {
    const document = randomDocument(random);
    counts.documents++;
    const read = (text: string): unknown => parse(text, { uniqueKeys: false });
    // The generator itself must be right.
    expect(read(document.text)).toEqual(document.value);
    for (let i = 0; i < 6; i++) {
      const value = read(document.text) as Record<string, unknown>;
      const values = [...Object.values(document.value), 'text', 3, null, 'a: b\nc', [], {}];
      const made = Array.from({ length: random() < 0.2 ? 3 : 1 }, () => editOf(value, values));
      const operations = made.map(({ operation }) => operation);
      counts.edits++;
      let text: string;
      try {
        text = siteFiles.patchSite(document.text, operations);
      } catch (error) {
        if (!(error instanceof siteFiles.PatchProblem)) throw error;
        counts.refused++;
        if (!error.message.includes('without changing something else'))
          wrong.push({ document: document.text, operations, refused: error.message });
        continue;
      }
      const touched = made.flatMap((one) => (one.touched ? [one.touched] : []));
      const isAlone = made.length === 1;
      const kept = document.comments.filter(
        // After several edits, paths with list indexes may mean other items.
        ({ owner }) => touched.length === 0 || (isAlone && !isUnder(owner, touched[0]!)),
      );
      const lines = text.split(/\r?\n/);
      const lost = kept.filter(
        (comment) => !lines.some((line) => line.trimEnd().endsWith(comment.text)),
      );
      const result = read(text);
      if (!isDeepStrictEqual(result, value) || lost.length > 0)
        wrong.push({ document: document.text, operations, text, lost });
      const [style, others] = [
        [...document.traits].filter((name) => DIMENSIONS.style.includes(name)),
        [...document.traits].filter((name) => DIMENSIONS.document.includes(name)),
      ];
      pairs.add({ style, document: others, edit: [isAlone ? made[0]!.does : 'several'] });
    }
  }
  const missed = pairs.missed(
    LEAST,
    (one, other) => one === 'style: json' && !/quotes|CRLF|empty|edit/.test(other),
  );
  if (LEAST > 0 || process.env['KLEIDON_EDITS']) report({ ...counts, wrong: wrong.length, missed });
  expect(wrong.slice(0, 2)).toEqual([]);
  expect(counts.refused).toBeLessThan(EDITS / 20);
  expect(missed).toEqual([]);
});

type Plain = Record<string, Value>;
const mapIn = (site: Plain, section: string): Plain => (site[section] ?? {}) as Plain;
const listIn = (site: Plain, section: string): readonly Value[] =>
  (site[section] ?? []) as readonly Value[];

/** A random site with texts that anchors and block scalars are made of. */
function plainSite(): Plain {
  const site = JSON.parse(asText(chance(random).site())) as Plain;
  const note = (): string =>
    one('plain', 'two words', 'one\ntwo', 'words '.repeat(40).trim(), "it's: so");
  const noted = (entry: Value): Value => ({ ...(entry as Plain), note: note() });
  return {
    ...site,
    ...(site['redirects'] ? { redirects: listIn(site, 'redirects').map(noted) } : {}),
    audiences: { crew: 'role r or role s', ...mapIn(site, 'audiences') },
    groups: one<Value>({}, null, { g: note(), h: note() }),
    accepted: [],
  };
}

/** An edit that fits a site. */
function consoleEdit(site: Plain): model.Edit {
  const sections = ['pages', 'gates', 'roles', 'audiences', 'groups'].filter(
    (name) => Object.keys(mapIn(site, name)).length > 0,
  );
  const section = one(...sections) as 'gates';
  const name = one(...Object.keys(mapIn(site, section)));
  const is = mapIn(site, section)[name]!;
  const pages = Object.keys(mapIn(site, 'pages'));
  const items = listIn(site, 'redirects');
  const item = items.length > 0 && random() < 0.7 ? one(...items) : null;
  const entry = (): Value => ({
    from: '/new-one',
    to: one('/x', '/:y'),
    note: one('a: b', 'one\ntwo', '#'),
  });
  const value = one<Value>(is, { ...(is as Plain), note: 'an: other' }, 'text', 'one\ntwo');
  return one<() => model.Edit>(
    () => ({ do: 'put', section, name, was: is, value }),
    () => ({ do: 'put', section, name: one('new', 'x: y', '#no', '/n/:a'), was: null, value }),
    () => ({ do: 'remove', section, name, was: is }),
    () => ({ do: 'put-item', section: 'redirects', was: item, value: entry() }),
    () => ({
      do: 'put-item',
      section: 'redirects',
      was: item,
      value: item === null ? entry() : null,
    }),
    () => ({
      do: 'put-items',
      section: 'redirects',
      items: [
        ...items.filter(() => random() < 0.5).map((was) => ({ was, value: one(null, entry()) })),
        { was: null, value: entry() },
      ],
    }),
    () => ({
      do: 'rename',
      section: one('roles', 'audiences', 'gates'),
      name: one('r', 'crew', name),
      to: one('renamed', 'é a'),
    }),
    () => ({
      do: 'move-page',
      from: one(...pages),
      to: one('/moved', '/moved/:x'),
      beneath: random() < 0.5,
      redirect: random() < 0.5,
    }),
    () => ({ do: 'copy-settings', from: one(...pages), to: one(...pages) }),
  )();
}

test('an edit of the console comes to the same in every style, and keeps comments', () => {
  const pairs = new PairCounter(OF_CONSOLE);
  const wrong: unknown[] = [];
  const counts = { edits: 0, made: 0, refused: 0, unwritable: 0, fixed: 0 };
  const differs = (what: object): void => void wrong.push(what);
  while (counts.edits < CONSOLE_EDITS) {
    const site = plainSite();
    const json = JSON.stringify(site);
    for (let i = 0; i < 4; i++) {
      const document = randomDocument(random, site);
      const edit = consoleEdit(site);
      counts.edits++;
      const [styled, plain] = [document.text, json].map((text) =>
        siteFiles.planEdits(text, [edit]),
      );
      const [refused, why] = [styled!.refused[0], plain!.refused[0]];
      if (refused?.code === 'not-writable') {
        counts.unwritable++;
        continue;
      }
      if (refused?.code !== why?.code) differs({ document: document.text, edit, refused, why });
      if (refused) {
        counts.refused++;
        continue;
      }
      counts.made++;
      const value = parse(styled!.text) as Plain;
      if (!isDeepStrictEqual(value, parse(plain!.text)) || !isAsMeant(edit, site, value))
        differs({ document: document.text, edit, text: styled!.text });
      const lost = document.comments.filter(({ text, owner }) => {
        const isTouched = styled!.operations.some(
          ({ op, path }) =>
            op !== 'add' &&
            (owner.length === 0 ||
              pointer(owner).startsWith(path) ||
              path.includes(pointer(owner.slice(0, 1)))),
        );
        return (
          !isTouched && !styled!.text.split(/\r?\n/).some((line) => line.trimEnd().endsWith(text))
        );
      });
      if (lost.length > 0) differs({ document: document.text, edit, text: styled!.text, lost });
      pairs.add(traitsOf(document, edit.do));
      const isTried = counts.fixed === 0 || random() < FIXES;
      if (isTried && fixedAlike(document, json, differs)) {
        counts.fixed++;
        pairs.add(traitsOf(document, 'fix'));
      }
    }
  }
  const missed = pairs.missed(
    LEAST,
    // Of a site, no text stands alone where everything within a section is in flow style.
    (one, other) =>
      (one === 'style: json' && !/quotes|CRLF|empty|edit/.test(other)) ||
      (one === 'style: flow' && /anchor|alias|block scalar|several lines/.test(other)),
  );
  if (LEAST > 0 || process.env['KLEIDON_EDITS']) report({ ...counts, wrong: wrong.length, missed });
  expect(wrong.slice(0, 2)).toEqual([]);
  expect(counts.unwritable).toBeLessThan(CONSOLE_EDITS / 20);
  expect(counts.fixed).toBeGreaterThan(0);
  expect(missed).toEqual([]);
});

const traitsOf = ({ traits }: RandomDocument, edit: string) => ({
  style: [...traits].filter((name) => DIMENSIONS.style.includes(name)),
  document: [...traits].filter((name) => DIMENSIONS.document.includes(name)),
  edit: [edit],
});

/** What simple edits mean, said once more. */
function isAsMeant(edit: model.Edit, before: Plain, after: Plain): boolean {
  switch (edit.do) {
    case 'put':
      // A page of which only the title is said is written as a text.
      return isDeepStrictEqual(inShort(mapIn(after, edit.section)[edit.name]), inShort(edit.value));
    case 'remove':
      return !Object.hasOwn(mapIn(after, edit.section), edit.name);
    case 'put-item':
    case 'put-items': {
      const items = edit.do === 'put-items' ? edit.items : [edit];
      const left = [...listIn(before, edit.section)] as unknown[];
      for (const { was, value } of items.filter((item) => item.was !== null)) {
        const at = left.findIndex((item) => isDeepStrictEqual(item, was));
        left.splice(at, 1, ...(value === null ? [GONE] : [value]));
      }
      const added = items
        .filter(({ was, value }) => was === null && value !== null)
        .map(({ value }) => value);
      return isDeepStrictEqual(listIn(after, edit.section), [
        ...left.filter((item) => item !== GONE),
        ...added,
      ]);
    }
    default:
      return true;
  }
}
const GONE = Symbol('gone');
const inShort = (entry: unknown): unknown =>
  isOpen(entry) && Object.keys(entry).join() === 'title' ? entry['title'] : entry;

const nameOf = ({ code, about }: model.Finding): string => `${code} ${about}`;

/** Fixes a finding in a styled and in a plain file; false where there is none to fix. */
function fixedAlike(
  { text }: RandomDocument,
  json: string,
  differs: (what: object) => void,
): boolean {
  const [styled, plain] = [text, json].map((file) => {
    const read = siteFiles.readSite(file, 'x');
    if (!read.ok) return null;
    const site = decisions.prepareSite(read.site);
    // In the order of the lines, the first one would be another in each style.
    const [finding] = queries
      .inspect(site, 'x', NOW)
      .filter(({ fix }) => fix !== null)
      .sort((one, other) => (nameOf(one) < nameOf(other) ? -1 : 1));
    if (finding === undefined) return null;
    const { text: fixed, refusal } = queries.tryFix(
      { text: file, name: 'x', listOf: () => null },
      site,
      [finding],
      null,
      NOW,
    );
    // What can't be written is refused in one style and made in another.
    if (refusal?.includes('without changing something else')) return null;
    return { value: parse(fixed) as unknown, isRefused: refusal !== null };
  });
  if (!styled || !plain) return false;
  if (!isDeepStrictEqual(styled, plain)) differs({ text, styled, plain });
  return true;
}
