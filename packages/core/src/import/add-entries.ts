import { isCollection, isMap, type Node, type Pair } from 'yaml';
import {
  blockFor,
  endOf,
  indentationOf,
  insertAfter,
  lineFor,
  type Collection,
} from '../site/yaml/yaml-lines.ts';
import { planEdits } from '../site/edit/plan-edits.ts';
import type { Addition, Change, Proposal } from './proposal.ts';
import { parseYaml } from '../site/yaml/parse-yaml.ts';

/** The site file with all that a proposal adds and changes. */
export function withProposed(
  text: string,
  {
    additions,
    changes = [],
  }: Pick<Proposal, 'additions'> & { readonly changes?: readonly Change[] },
): string {
  const edits = changes.map(({ was, value }) => ({
    do: 'put-item' as const,
    section: 'redirects' as const,
    was,
    value,
  }));
  return addEntries(planEdits(text, edits).text, additions);
}

/**
 * Adds entries to a site file, at the end of those that their part of it has. Everything else stays
 * as it was, to the letter: comments, order, quotes and indentation.
 *
 * @param text a site file without syntax errors
 * @returns the new text
 */
export function addEntries(text: string, additions: readonly Addition[]): string {
  const sections = [...new Set(additions.map(({ section }) => section))];
  return sections.reduce(
    (before, section) =>
      addTo(
        before,
        section,
        additions.filter((one) => one.section === section),
      ),
    text,
  );
}

function addTo(text: string, section: string, additions: readonly Addition[]): string {
  const document = parseYaml(text, { uniqueKeys: false });
  const root = document.contents;
  if (isMap(root) && !root.flow) {
    const pair = (root.items as Pair<Node, Node | null>[]).find(
      ({ key }) => String(key) === section,
    );
    if (!pair) return `${withFinalNewline(text)}\n${section}:\n${linesOf(additions, '  ')}`;
    const { key, value } = pair;
    if (!isCollection(value)) return insertAfter(text, key.range![1], linesOf(additions, '  '));
    if (isBlock(value)) {
      return insertAfter(text, endOf(value), linesOf(additions, indentationOf(text, value)));
    }
  }
  // A file in JSON, or entries in braces: there is no line to put another behind.
  const node = document.get(section, true);
  const [start, end] = isCollection(node) ? node.range! : [0, 0];
  for (const { name, value } of additions) {
    if (section === 'redirects') document.addIn([section], value);
    else document.setIn([section, name], value);
  }
  if (isMap(root) && root.flow) return `${JSON.stringify(document.toJS(), null, 2)}\n`;
  if (!isCollection(node)) return document.toString({ lineWidth: 0 });
  // A site file is read line by line by whoever looks at what has changed.
  const after = text.slice(end).replace(/^[ \t]*(?:\r?\n)?/, '');
  return text.slice(0, start).trimEnd() + blockFor(node.toJS(document), '  ') + after;
}

const linesOf = (additions: readonly Addition[], indentation: string): string =>
  additions
    .map(({ section, name, value }) =>
      lineFor(section === 'redirects' ? [value] : { [name]: value }, indentation),
    )
    .join('');

const isBlock = (node: Collection): boolean => !node.flow && node.items.length > 0;

const withFinalNewline = (text: string): string =>
  text === '' || text.endsWith('\n') ? text : `${text}\n`;
