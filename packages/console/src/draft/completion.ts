import {
  autocompletion,
  type Completion,
  type CompletionContext,
  type CompletionResult,
} from '@codemirror/autocomplete';
import type { Extension } from '@codemirror/state';
import { hoverTooltip } from '@codemirror/view';
import declared from 'virtual:site-file-fields';
import type { siteFiles } from '@kleidon/core';
import { entriesIn, yamlContextAt } from './yaml-context.ts';

/** Completion and help in the editor: fields, what they may be, names of the site file, words of conditions. */
export const siteFileHelp = (): Extension => [
  // Nothing is chosen at first, so Enter behind a whole word begins a new line, also right after it was typed.
  autocompletion({
    override: [completeSiteFile],
    selectOnOpen: false,
    interactionDelay: 0,
    icons: false,
  }),
  hoverTooltip((view, position) => {
    const { from, to, text } = view.state.doc.lineAt(position);
    const word = wordAt(text, position - from);
    if (!word) return null;
    const help = helpOn(view.state.doc.sliceString(0, to), from + word.from, word.text);
    return help === null
      ? null
      : {
          pos: from + word.from,
          end: from + word.to,
          above: true,
          create: () => {
            const dom = document.createElement('div');
            dom.className = 'cm-help';
            dom.textContent = help;
            return { dom };
          },
        };
  }),
];

const WORD = /[\p{L}\p{N}_./:-]*$/u;

/** What may be written at a place. */
function completeSiteFile(context: CompletionContext): CompletionResult | null {
  const text = context.state.doc.toString();
  const place = yamlContextAt(text, context.pos);
  if (!place) return null;
  const { path, isName, before } = place;
  const typed = WORD.exec(
    context.state.doc.lineAt(context.pos).text.slice(0, columnOf(context)),
  )![0];
  if (typed === '' && !context.explicit && !isName) return null;
  const options = isName ? namesAt(path) : valuesAt(path, before, text);
  return options.length === 0 ? null : { from: context.pos - typed.length, options };
}

const columnOf = ({ state, pos }: CompletionContext): number => pos - state.doc.lineAt(pos).from;

/** The declaration of the field that a path leads to; null where names are free. */
function fieldAt(path: readonly string[]): siteFiles.FieldDeclaration | null {
  const [section, ...steps] = path;
  let field: siteFiles.FieldDeclaration | undefined;
  if (section === 'site') field = declared.site;
  else {
    field = declared.sections.find((one) => one.section === section)?.entry;
    if (steps.length === 0) return null;
    steps.shift();
  }
  for (const step of steps) {
    // The item of a list is what the list holds.
    if (step === '*') continue;
    field = field?.fields.find(({ name }) => name === step);
  }
  return field ?? null;
}

const helpOf = ({ title, help, usual, choices }: siteFiles.FieldDeclaration): string =>
  [
    help === null ? `${title}.` : `${title}: ${help}.`,
    ...(choices.length > 0 ? [`One of ${choices.map(String).join(', ')}.`] : []),
    ...(usual === null ? [] : [`Default: ${usual}.`]),
  ].join(' ');

/** The names that may be written: sections, or the fields of an entry. */
function namesAt(path: readonly string[]): Completion[] {
  if (path.length === 0)
    return [
      ...declared.sections.map(({ section, about }) => nameOption(section, about, `${section}:`)),
      nameOption('site', 'The site itself.', 'site:'),
      nameOption('kleidon', 'The version of the format.', 'kleidon: 1'),
    ];
  return (fieldAt(path)?.fields ?? []).map((field) =>
    nameOption(field.name, helpOf(field), `${field.name}: `),
  );
}

const nameOption = (label: string, info: string, apply: string): Completion => ({
  label,
  type: 'property',
  info,
  apply,
});

/** The sections with the names that kinds of texts, and words of conditions, ask for. */
const SECTION_OF: Readonly<Record<string, string>> = {
  role: 'roles',
  group: 'groups',
  product: 'products',
  bought: 'products',
  lapsed: 'products',
  paused: 'products',
  refunded: 'products',
  person: 'visitors',
  address: 'pages',
  scope: 'pages',
};

/** What a value may be. */
function valuesAt(path: readonly string[], before: string, text: string): Completion[] {
  const field = fieldAt(path);
  if (!field) return [];
  const { kind, choices, usual } = field;
  if (kind === 'condition') return conditionWords(before, text);
  if (choices.length > 0)
    return choices
      .filter((one) => typeof one !== 'boolean')
      .map((one) => ({
        label: String(one),
        type: 'enum',
        ...(one === usual ? { detail: 'default' } : {}),
      }));
  const section = SECTION_OF[kind];
  return section === undefined ? [] : namesOf(text, section);
}

const namesOf = (text: string, section: string): Completion[] =>
  [...entriesIn(text, section)].map(([label, said]) => ({
    label,
    type: 'constant',
    ...(said === '' || said.startsWith('{') ? {} : { info: said }),
  }));

/** What a condition may go on with. */
function conditionWords(before: string, text: string): Completion[] {
  const words = before.trim().split(/[\s("[\],)]+/);
  const last = /\s$/.test(before) ? words.at(-1)! : (words.at(-2) ?? '');
  const section = SECTION_OF[last];
  if (section !== undefined) return namesOf(text, section);
  if (last === 'ever') return [{ label: 'bought', type: 'keyword' }];
  return [
    ...Object.entries(declared.conditionWords).map(([label, info]) => ({
      label,
      type: 'keyword',
      info,
    })),
    ...namesOf(text, 'audiences'),
    ...['visitor.', 'path.', 'query.'].map((label) => ({ label, type: 'variable' })),
    ...Object.entries(declared.comparisonSigns).map(([label, info]) => ({
      label,
      type: 'operator',
      info,
    })),
  ];
}

/** What a word of the site file means; null where nothing is known of it. */
function helpOn(text: string, offset: number, word: string): string | null {
  const place = yamlContextAt(text, offset);
  if (!place) return null;
  const { path, isName, before } = place;
  if (isName) {
    if (path.length === 0)
      return declared.sections.find(({ section }) => section === word)?.about ?? null;
    const field = fieldAt([...path, word]);
    return field?.name === word ? helpOf(field) : null;
  }
  const field = fieldAt(path);
  if (!field) return null;
  if (field.kind !== 'condition') return named(text, SECTION_OF[field.kind], word);
  const last = before
    .trim()
    .split(/[\s("[\],)]+/)
    .at(-1)!;
  if (SECTION_OF[last] !== undefined) return named(text, SECTION_OF[last], word);
  const { conditionWords, comparisonSigns } = declared;
  const known = Object.hasOwn(conditionWords, word) ? conditionWords[word] : comparisonSigns[word];
  return known ?? named(text, 'audiences', word);
}

function named(text: string, section: string | undefined, word: string): string | null {
  const said = section === undefined ? undefined : entriesIn(text, section).get(word);
  const one = declared.sections.find((other) => other.section === section)?.one ?? '';
  if (said === undefined) return null;
  const about = `${one.charAt(0).toUpperCase()}${one.slice(1)} ${word}`;
  return said === '' ? about : `${about}: ${said}`;
}

/** The word at a column of a line. */
function wordAt(line: string, column: number): { from: number; to: number; text: string } | null {
  for (const { 0: text, index } of line.matchAll(/[\p{L}\p{N}_/.-]+|[<>!]?=|[<>]/gu))
    if (index <= column && column <= index + text.length)
      return { from: index, to: index + text.length, text };
  return null;
}
