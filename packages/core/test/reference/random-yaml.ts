import { chance } from './random-site.ts';

/** A value of a document: maps, lists and scalars. */
export type Value =
  string | number | boolean | null | readonly Value[] | { readonly [key: string]: Value };

/** A random document: its text, value and comments. */
export interface RandomDocument {
  readonly text: string;
  readonly value: Record<string, Value>;
  /** Each comment with the path of its entry. It may be lost if the entry is replaced or removed. */
  readonly comments: readonly { readonly text: string; readonly owner: readonly string[] }[];
  readonly traits: ReadonlySet<string>;
}

const KEYS = [
  'a',
  'b c',
  '/x',
  '/y/:z',
  'q: r',
  '"quoted"',
  'é',
  '7',
  'null',
  "it's",
  '#no',
  '-',
  '',
  '__proto__',
  '{x}',
  'yes',
];
const TEXTS = [
  'plain',
  'two words',
  'with: colon',
  'a # b',
  '- dash',
  "it's",
  'say "so"',
  '',
  ' led',
  'trailing ',
  'no',
  '12',
  'null',
  '2027-03-01',
  '[x',
  '{y}',
  '*star',
  '&and',
  '!bang',
  '%per',
  '@at',
  'é\u00A0ü',
  'tab\there',
  'one\ntwo',
  'one\n\n  two\n',
  '\nlead',
  'x'.repeat(150),
  'words '.repeat(40).trim(),
  'a\u2028b',
  '\u0007bell',
  ': ',
  '? q',
  '---',
  '/a/:b(\\d+)?x={y}',
];

/**
 * Writes YAML in every style. It shares no code with the tested writer.
 *
 * @param given what is written; a random value by default
 */
export function randomDocument(
  random: () => number,
  given?: Record<string, Value>,
): RandomDocument {
  const { is } = chance(random);
  const one = <T>(...of: readonly T[]): T => of[Math.floor(random() * of.length)]!;
  const traits = new Set<string>();
  const trait = (name: string): void => void traits.add(name);
  const comments: RandomDocument['comments'][number][] = [];
  const anchors: { name: string; value: Value }[] = [];
  const style = one('block', 'block', 'flow', 'mixed', 'mixed', 'json');
  trait(style);
  const commentShare = one(0, 0.1, 0.3);
  const anchorShare = one(0, 0, 0.4);
  const step = one(2, 2, 2, 4, 3, 1);
  const isIndentedList = is(0.6);

  const value = (depth: number): Value => {
    if (depth > 0 && is(0.35))
      return Object.fromEntries(
        Array.from({ length: Math.floor(random() * 4) }, () => [one(...KEYS), value(depth - 1)]),
      );
    if (depth > 0 && is(0.35))
      return Array.from({ length: Math.floor(random() * 4) }, () => value(depth - 1));
    if (is(0.08)) return null;
    if (is(0.08)) return one(0, 1.5, -3, 1e21);
    if (is(0.05)) return is(0.5);
    // Aliases need equal values.
    return anchorShare > 0 && is(0.5) ? one('plain', 'two words') : one(...TEXTS);
  };
  const comment = (owner: readonly string[], where: string): string => {
    trait(`comment ${where}`);
    const text = `#${one('', ' ', '\t', ' key: ', ' - ')}c${comments.length}${one('', ' "', "'", ' {', '\ttab')}`;
    comments.push({ text: text.trimEnd(), owner });
    return text;
  };
  /** Lines of comments, or none. */
  const above = (owner: readonly string[], indentation: string, where: string): string =>
    is(commentShare)
      ? `${is(0.3) ? '\n' : ''}${indentation}${comment(owner, where)}\n`
      : is(0.1)
        ? '\n'
        : '';
  const behind = (owner: readonly string[]): string =>
    is(commentShare)
      ? `${one(' ', '  ', '\t')}${comment(owner, 'behind')}\n`
      : `${one('', '', '', ' ')}\n`;

  const quoted = (text: string): string => {
    const escaped = JSON.stringify(text)
      .replace(/\u2028/g, '\\u2028')
      .replace(/\u007f/g, '\\u007f');
    // Single quotes hold what can be printed on one line.
    if (/^[\x20-\x7e\u00a0-\u2027]*$/.test(text) && is(0.5)) {
      trait('quotes');
      return `'${text.replaceAll("'", "''")}'`;
    }
    trait('quotes');
    return escaped;
  };
  const isPlain = (text: string): boolean =>
    /^[a-z/é][a-z0-9/é ]*$/i.test(text) &&
    text === text.trim() &&
    !/^(?:null|true|false|no|yes)$/i.test(text);
  const scalar = (of: Value): string => {
    if (style === 'json') trait('quotes');
    if (typeof of !== 'string')
      return of === null ? one('null', '~') : of === 1e21 ? '1e+21' : JSON.stringify(of);
    return isPlain(of) && style !== 'json' && is(0.7)
      ? of
      : style === 'json'
        ? JSON.stringify(of)
        : quoted(of);
  };
  const key = (of: string): string =>
    isPlain(of) && style !== 'json' && is(0.8)
      ? of
      : style === 'json'
        ? JSON.stringify(of)
        : quoted(of);

  const flow = (of: Value, path: readonly string[], indentation: string): string => {
    if (of === null || typeof of !== 'object') return scalar(of);
    const isWide = is(0.25);
    const isList = Array.isArray(of);
    const entries: [string, Value][] = Object.entries(of);
    const inner = isWide ? `\n${indentation}  ` : style === 'json' ? one('', ' ') : ' ';
    const items = entries.map(([name, item], i) => {
      const own = [...path, name];
      const text = isList
        ? flow(item, own, `${indentation}  `)
        : `${key(name)}: ${flow(item, own, `${indentation}  `)}`;
      const isLast = i === entries.length - 1;
      const comma = !isLast || (style !== 'json' && is(0.1)) ? ',' : '';
      const after =
        isWide && style !== 'json' && is(commentShare) ? ` ${comment(own, 'in flow')}` : '';
      return text + comma + after;
    });
    const [open, close] = isList ? ['[', ']'] : ['{', '}'];
    if (items.length === 0) trait('empty section');
    if (items.length === 0)
      return isWide && style !== 'json' && is(commentShare)
        ? `${open} ${comment(path, 'in flow')}\n${indentation} ${close}`
        : open + close;
    return `${open}${inner}${items.join(inner === '' ? ' ' : inner)}${isWide ? `\n${indentation} ` : inner}${close}`;
  };

  const asFlow = (): boolean =>
    style === 'json' || style === 'flow' || (style === 'mixed' && is(0.4));
  /** A value behind `key:` or `-`, with the end of its line. */
  const node = (
    of: Value,
    path: readonly string[],
    indentation: string,
    isItem: boolean,
  ): string => {
    const inner = indentation + ' '.repeat(step);
    if (of === null && is(0.6)) return behind(path);
    if (of !== null && is(anchorShare)) {
      const same = anchors.find(({ value: known }) => JSON.stringify(known) === JSON.stringify(of));
      if (same) {
        trait('alias');
        return ` *${same.name}${behind(path)}`;
      }
      if (typeof of === 'string' && isPlain(of)) {
        trait('anchor');
        const name = `n${anchors.length}`;
        anchors.push({ name, value: of });
        return ` &${name} ${of}${behind(path)}`;
      }
    }
    if (
      typeof of === 'string' &&
      of.includes('\n') &&
      /^[ -~\n]*$/.test(of) &&
      !/^\s/.test(of) &&
      is(0.6)
    ) {
      trait('block scalar');
      const chomp = of.endsWith('\n') ? '' : '-';
      return ` |${chomp}\n${of
        .replace(/\n$/, '')
        .split('\n')
        .map((line) => (line === '' ? '' : inner + line))
        .join('\n')}\n`;
    }
    if (typeof of === 'string' && /^[a-z ]{60,}$/.test(of) && is(0.5)) {
      trait('several lines');
      return ` ${of
        .split(' ')
        .join(`\n${inner}`)
        .replace(new RegExp(`\\n${inner}`), ' ')}\n`;
    }
    if (of === null || typeof of !== 'object') return ` ${scalar(of)}${behind(path)}`;
    const isEmpty = Object.keys(of).length === 0;
    if (isEmpty) trait('empty section');
    if (isEmpty || asFlow()) return ` ${flow(of, path, inner)}${behind(path)}`;
    const isList = Array.isArray(of);
    if (isItem && is(0.7)) {
      // The first entry stands behind the dash.
      const width = one(1, 1, 3);
      const lines = block(of, path, `${indentation}${' '.repeat(width + 1)}`, false);
      return ' '.repeat(width) + lines.slice(indentation.length + width + 1);
    }
    const deeper = isList && !isItem && !isIndentedList ? indentation : inner;
    return behind(path) + block(of, path, deeper, true);
  };
  const block = (
    of: object,
    path: readonly string[],
    indentation: string,
    mayBegin: boolean,
  ): string => {
    const isList = Array.isArray(of);
    const lines = Object.entries(of as Record<string, Value>).map(([name, item], i) => {
      const own = [...path, name];
      const before = i > 0 || mayBegin ? above(path, indentation, i === 0 ? 'first' : 'above') : '';
      const isExplicit = !isList && style !== 'json' && is(0.02);
      if (isExplicit) trait('explicit key');
      const head = isList ? '-' : isExplicit ? `? ${key(name)}\n${indentation}:` : `${key(name)}:`;
      return `${before}${indentation}${head}${node(item, own, indentation, isList)}`;
    });
    return (
      lines.join('') +
      (is(commentShare / 2) ? `${indentation}${comment(path, 'at the end')}\n` : '')
    );
  };

  const root: Record<string, Value> = { ...given };
  const names = ['pages', 'gates', 'redirects', 'site', ...KEYS].filter(() => is(0.3));
  for (const name of given ? [] : names.length > 0 ? names : ['pages'])
    Object.defineProperty(root, name, {
      value: is(0.8) ? value(3) : null,
      enumerable: true,
      writable: true,
      configurable: true,
    });
  let text =
    style === 'json'
      ? `${flow(root, [], '')}\n`
      : `${is(commentShare) ? `${comment([], 'head')}\n` : ''}${block(root, [], '', true)}`;
  if (style !== 'json' && is(0.1)) text = `---\n${text}`;
  if (is(0.15)) text = text.replace(/\n$/, '');
  if (is(0.2)) {
    trait('CRLF');
    text = text.replaceAll('\n', '\r\n');
  }
  if (is(0.05)) text = `\uFEFF${text}`;
  return { text, value: root, comments, traits };
}
