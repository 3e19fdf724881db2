import { capitalize } from '../text/capitalize.ts';
import type { GuaranteeFault, SiteProblem, WantedType } from '../model/site-error.ts';
import { inWords } from '../text/list.ts';
import { advice, type Advice } from './advice.ts';
import { RESERVED_WORDS } from '../condition/vocabulary.ts';
import { describeConditionProblem } from './condition-problem.ts';
import { describeCsvProblem } from './csv-problem.ts';
import { describeInversionProblem, describePatternProblem } from './pattern-problem.ts';
import { describeSuggestion } from './suggestion.ts';

/** What is wrong with a site file, in English, and what would be right. */
export const describeSiteProblem = (problem: SiteProblem): Advice =>
  (SENTENCES[problem.code] as (problem: SiteProblem) => Advice)(problem);

type Code = SiteProblem['code'];

/** The problem that has a code, also where several share their values. */
type ProblemOf<C extends Code, P = SiteProblem> = P extends { readonly code: infer D }
  ? C extends D
    ? P
    : never
  : never;

const WANTED: Readonly<Record<WantedType, readonly [wanted: string, remedy: string]>> = {
  text: ['text', 'Put the text in quotes.'],
  integer: ['a whole number', 'Write a whole number, such as 1.'],
  flag: ['yes or no', 'Write yes or no.'],
  'one-or-list': ['an address or a list of addresses', 'Write one, or several as [one, two].'],
  names: ['a list of names', 'Write [one, two].'],
  attributes: [
    'a map of names to texts, numbers, yes/no values or lists of them',
    'Write { name: value }.',
  ],
};

const SEE_DOCS = 'See docs/site-file.md for what may stand here.';
const REMOVE_ONE = 'Remove one of the two.';

const show = (value: unknown): string => (value === undefined ? 'nothing' : JSON.stringify(value));

const GUARANTEE_FAULTS: Readonly<Record<GuaranteeFault, [string, string]>> = {
  'one-demand': [
    'A guarantee says what happens always, or never.',
    'Write "never: reach" or "always: reach".',
  ],
  alone: [
    '"change", "permanent" and "never: reach" stand alone.',
    'Write the other outcomes as another guarantee.',
  ],
  'old-addresses': [
    '"permanent" and "hops" are for old addresses, and nothing else is demanded of those.',
    'Write "from: https://old.example/*, always: permanent".',
  ],
  'no-scope': ['Old addresses and links are whole by themselves.', 'Leave "under" and "at" out.'],
  'open-condition': [
    'Whom a guarantee is about must not depend on the address, nor compare two values of the visitor.',
    'Compare with constants, such as "visitor.town = \"Ayr\"".',
  ],
};

/** What somebody means by an item of a list of conditions: mostly a role. */
const asCondition = (item: string): string =>
  /^[\p{L}\p{N}_-]+$/u.test(item) && !RESERVED_WORDS.has(item) ? `role ${item}` : item;

const SENTENCES: { readonly [C in Code]: (problem: ProblemOf<C>) => Advice } = {
  'not-yaml': ({ detail }) =>
    advice(
      `This is not YAML: ${detail.replace(/[.:]?$/, '.')}`,
      'Check quotes, brackets and indentation here.',
    ),
  'too-many-aliases': ({ detail }) => advice(detail, 'Write the repeated values out.'),
  'key-twice': ({ name }) =>
    advice(`"${name}" stands twice in the same place.`, 'Rename or remove one of the two.'),
  'too-large': ({ limit }) =>
    advice(`The file is larger than ${limit / 1024 / 1024} MiB.`, 'Split the site.'),
  'not-a-site-file': () =>
    advice('This is not a site file.', 'Begin it with "kleidon: 1" and "site:".'),
  'no-version': ({ version }) =>
    advice('The version of the format is missing.', `Add it: kleidon: ${version}`),
  'other-version': ({ version }) =>
    advice(`This version of Kleidon reads format ${version}.`, `Write "kleidon: ${version}".`),
  'section-type': ({ section, is }) =>
    is === 'list'
      ? advice(`"${section}" must be a list.`, 'Begin each entry with "- ".')
      : advice(
          `"${section}" must be a map of names to entries.`,
          'Write "name: …" for each entry.',
        ),
  'unknown-section': ({ name, suggestion }) =>
    advice(`"${name}" is not a part of a site file.`, describeSuggestion(suggestion)),
  'empty-entry': ({ name }) => advice(`"${name}" is empty.`, 'Write its fields, or remove it.'),
  'not-a-map': ({ what }) =>
    advice(`${capitalize(what)} must be a map of names to values.`, SEE_DOCS),
  'not-a-list': ({ what }) => advice(`"${what}" must be a list.`, SEE_DOCS),
  'wrong-type': ({ field, wanted }) => {
    const [type, remedy] = WANTED[wanted];
    return advice(`"${field ?? 'This'}" must be ${type}.`, remedy);
  },
  'condition-list': ({ field, items }) =>
    advice(
      `"${field}" is one condition, not a list.`,
      `Join them by "or": ${field}: ${items.map(asCondition).join(' or ')}`,
    ),
  fragment: ({ text, without }) =>
    advice(
      `${text} has a "#": browsers keep what follows it, so that no request has it.`,
      `Write ${without}.`,
    ),
  'missing-field': ({ field, example }) => advice(`"${field}" is missing.`, `Add it: ${example}`),
  guarantee: ({ fault }) => advice(...GUARANTEE_FAULTS[fault]),
  'nothing-expected': () => advice('Nothing is expected of this visit.', 'Say it: outcome: reach.'),
  'gate-without-scope': () =>
    advice('A gate must say where it stands.', 'Add "under: /section" or "at: /page".'),
  'not-found-without-content': () =>
    advice('A not-found rule must say what is shown.', 'Add "show: /page" or "say: Some words".'),
  'unknown-field': ({ field, of, suggestion }) =>
    advice(`"${field}" is not a field of ${of}.`, describeSuggestion(suggestion)),
  'not-one-of': ({ field, value, choices, suggestion }) =>
    advice(
      `"${field}" must be ${inWords(choices, 'or')}, not ${show(value)}.`,
      describeSuggestion(suggestion),
    ),
  'only-with': ({ field, wanted }) =>
    advice(`"${field}" goes with "do: ${wanted}".`, `Remove it, or write "do: ${wanted}".`),
  condition: ({ problem }) => describeConditionProblem(problem),
  pattern: ({ problem }) => describePatternProblem(problem),
  csv: ({ problem }) => {
    const { message, remedy } = describeCsvProblem(problem);
    return advice(
      message,
      remedy ?? 'Write from,to on the first line and a redirect on each line below.',
    );
  },
  'unknown-role': ({ name, suggestion }) =>
    advice(`No role is called "${name}".`, describeSuggestion(suggestion)),
  'unknown-group': ({ name, suggestion }) =>
    advice(`No group is called "${name}".`, describeSuggestion(suggestion)),
  'unknown-product': ({ name, suggestion }) =>
    advice(`No product is called "${name}".`, describeSuggestion(suggestion)),
  'unknown-audience': ({ name, suggestion }) =>
    advice(`No audience is called "${name}".`, describeSuggestion(suggestion)),
  'unknown-visitor': ({ name, suggestion }) =>
    advice(`No visitor is called "${name}".`, describeSuggestion(suggestion)),
  'unknown-piece': ({ field, piece, suggestion }) =>
    advice(
      `"${field}" uses ${piece}, which "from" does not match.`,
      describeSuggestion(suggestion),
    ),
  'unknown-path-value': ({ name, suggestion }) =>
    advice(
      `"path.${name}" is not a piece of the address here.`,
      suggestion === null
        ? `Name it in the address, as in /section/:${name}.`
        : describeSuggestion(suggestion),
    ),
  'pattern-without-slash': ({ text }) =>
    advice(`"${text}" is no address of this site.`, 'Begin it with a slash.'),
  'not-a-page-address': ({ text }) =>
    advice(`"${text}" is not a page of this site.`, 'Begin it with a slash.'),
  'not-a-query': ({ query }) =>
    advice(
      `"?${query}" is not what a query can have.`,
      'Write fields with values, such as ?id=7, ?person=:name or ?all=*.',
    ),
  'misread-query': ({ corrected }) =>
    advice(
      'The "?" makes the piece before it optional, and what follows is no query.',
      `Write "${corrected}" if the query begins here.`,
    ),
  'not-a-host': ({ text }) =>
    advice(
      `"${text}" is not the address of a host.`,
      `Write protocol and host, such as https://${/^[\w-]+(?:\.[\w-]+)+$/.test(text) ? text : 'www.example'}.`,
    ),
  'not-an-address': ({ text }) =>
    advice(
      `"${text}" is not an address.`,
      'Write a path, such as /join, or a whole https:// address.',
    ),
  'not-a-duration': ({ text }) =>
    advice(`"${text}" is not a length of time.`, 'Write it as 60s, 5m, 1h or 3d.'),
  'bundle-in-itself': ({ product }) =>
    advice(
      `The product ${product} includes itself, by whatever it includes.`,
      'Take it out of one of them.',
    ),
  'not-a-time-zone': ({ text }) =>
    advice(`"${text}" is not a time zone.`, 'Write a name such as Europe/London.'),
  'not-an-ending': ({ text }) =>
    advice(`"${text}" is not an ending.`, 'Write it with its dot, such as .html.'),
  'not-an-index': ({ text }) =>
    advice(
      `"${text}" is no index name.`,
      'Write an address of the home page, such as /home, or the last segment of a section, such as index.',
    ),
  'not-of-this-page': ({ text, pattern }) =>
    advice(`"${text}" is not an address of this page.`, `Write one that ${pattern} matches.`),
  'not-a-date': ({ text, isInCondition }) =>
    advice(
      `"${text}" is not a date.`,
      isInCondition ? 'Write it as 2027-03-01.' : 'Write it as 2027-03-01 or 2027-03-01T09:30.',
    ),
  'period-reversed': ({ from }) =>
    advice(`"until" is not after "${from}".`, 'Swap the two dates, or fix one.'),
  'not-refused': ({ character, choices }) =>
    advice(
      `"${character}" is not a character that is refused unless it is allowed.`,
      `Write one of ${choices.map((one) => `"${one}"`).join(', ')}.`,
    ),
  'same-page': ({ address, other }) =>
    advice(`"${address}" and "${other}" are the same address.`, REMOVE_ONE),
  'alias-taken': ({ alias, owner }) =>
    advice(`"${alias}" is an address of ${owner} already.`, REMOVE_ONE),
  'alias-is-pattern': ({ alias }) =>
    advice(`"${alias}" is a pattern.`, 'An alias is one address; use a redirect for many.'),
  'alias-of-pattern': () =>
    advice(
      'A page whose address is a pattern has no aliases.',
      'Write a redirect from the other pattern.',
    ),
  'guest-with': ({ field }) =>
    advice(
      `A guest has no ${field === 'bought' ? 'purchases' : field}.`,
      'Remove it, or remove "guest".',
    ),
  'reserved-word': ({ name }) =>
    advice(`"${name}" means something else in a condition.`, 'Give the audience another name.'),
  'unwritable-name': ({ name }) =>
    advice(`"${name}" can't be written in a condition.`, 'Use letters, digits, "-" and "_".'),
  'invisible-character': ({ name, character }) =>
    advice(
      `The name "${name}" has the character ${codePoint(character)}, which nobody sees.`,
      'Write the name without it, wherever it is used.',
    ),
  'names-look-alike': ({ name, other }) =>
    advice(
      `"${name}" looks like "${other}", and is another name: ${describeBeyondAscii(name, other)}.`,
      'Give one of them another name, or write both with the same characters.',
    ),
  'audience-circle': ({ circle }) =>
    advice(
      `This audience is defined by itself: ${circle.join(' → ')}.`,
      'Take one of them out of the other.',
    ),
  'audience-too-deep': ({ limit }) =>
    advice(
      `This audience has more than ${limit} others in one another.`,
      'Write the conditions of some of them where they are used.',
    ),
  'no-such-list': ({ name }) =>
    advice(`There is no list ${name}.`, 'Put the file beside the site file, or remove its name.'),
  'unknown-column': ({ name, columns }) =>
    advice(
      `"${name}" is not a column of a list of redirects.`,
      `The columns are ${columns.join(', ')}.`,
    ),
  'say-without-wait': () =>
    advice('"say" is for the page of a redirect that waits.', 'Add "wait: 5s".'),
  'wait-permanent': () =>
    advice('A redirect that waits is no permanent one.', 'Remove "wait" or "kind".'),
  'fragment-served': () =>
    advice(
      'A server is never told what stands behind "#".',
      'Remove it: an address is served without.',
    ),
  'server-not-allowed': ({ origin }) =>
    advice(
      `${origin} is not a server that this site may serve from.`,
      `Write "servers: [${origin}]" under "site", if that is right.`,
    ),
  'no-inverse': ({ problem }) =>
    advice(
      `This rewrite can't be turned round: ${describeInversionProblem(problem)}.`,
      'Remove "canonical", or write the rewrite so that each address comes from one only.',
    ),
};

const codePoint = (character: string): string =>
  `U+${character.codePointAt(0)!.toString(16).toUpperCase().padStart(4, '0')}`;

/** The characters beyond ASCII of two names. */
function describeBeyondAscii(...names: readonly string[]): string {
  const found = names.flatMap((name) =>
    [...new Set(name)]
      .filter((one) => one > '~')
      .map((one) => `"${one}" in "${name}" is ${codePoint(one)}`),
  );
  return found.slice(0, 3).join(', ');
}
