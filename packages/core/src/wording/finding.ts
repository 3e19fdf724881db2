import { printCondition } from '../condition/print.ts';
import { describeCondition, type Titles } from './condition.ts';
import type { Condition } from '../model/condition.ts';
import type { FindingCode, FindingValues, People, ToldFinding } from '../model/finding.ts';
import type { Scope } from '../model/site.ts';
import { inWords } from '../text/list.ts';
import { printDay } from '../time/instant.ts';

/** What sentences need to know of a site. */
export interface SiteWords {
  /** The time zone in which days are told. */
  readonly timeZone: string;
  readonly titles: Titles;
}

/** What a finding says, in English: what looks wrong, and what to do about it. */
export function describeFinding<C extends FindingCode>(
  { code, values }: ToldFinding<C>,
  { timeZone, titles }: SiteWords,
): { message: string; remedy: string } {
  const [message, remedy] = SENTENCES[code] as Sentences<C>;
  const words: Words = {
    day: (moment) => printDay(moment, timeZone),
    people: (who) => peopleInWords(who, titles),
  };
  return {
    message: message(values, words),
    remedy: typeof remedy === 'string' ? remedy : remedy(values),
  };
}

/** Who is meant, in words. */
const peopleInWords = (who: People, titles: Titles): string =>
  who === 'everyone' ? who : describeCondition(who, titles);

interface Words {
  day(moment: number): string;
  people(who: People): string;
}

type Sentences<C extends FindingCode> = readonly [
  message: (values: FindingValues[C], words: Words) => string,
  remedy: string | ((values: FindingValues[C]) => string),
];

const SENTENCES: { readonly [C in FindingCode]: Sentences<C> } = {
  'sign-in-closed': [
    ({ address, outcome, method, consequences }) =>
      (method === 'POST'
        ? `Guests are asked to sign in at ${address}, and can't send its form: a POST request by a guest ends as ${outcome}.`
        : `Guests are asked to sign in at ${address}, and a guest's visit there ends as ${outcome}: nobody can sign in.`) +
      (consequences === 0
        ? ''
        : ` ${consequences === 1 ? 'One other finding follows' : `${consequences} other findings follow`} from this.`),
    ({ address, method, isGated }) =>
      isGated
        ? `Add a gate ${method === 'POST' ? 'with "right: change" ' : ''}at ${address} that admits anyone.`
        : `Add ${address} to the pages, or name another page as sign-in.`,
  ],
  'legal-page-closed': [
    ({ page, title, outcome }) =>
      `Guests can't read "${title}": a visit to ${page} ends as ${outcome}.`,
    ({ page }) => `Add a gate at ${page} that admits anyone.`,
  ],
  'newcomer-page-closed': [
    ({ page, need }) => `The site is closed to guests, and so is ${page}, ${NEEDS[need]}.`,
    ({ page }) => `Add a gate at ${page} that admits anyone, or accept this finding with a note.`,
  ],
  'landing-closed': [
    ({ after, who, address }, { people }) =>
      `After ${after}, ${people(who)} would land at ${address} and not see it.`,
    'Let them land on a page that is open to them, or open this one.',
  ],
  'sends-to-closed': [
    ({ gate, by, to, who }, { people }) =>
      `The gate ${gate} ${by === 'send' ? 'sends people to' : 'offers what is sold at'} ${to}` +
      (who === null
        ? ', and there is no such page now.'
        : `, which ${people(who)} can't see either.`),
    ({ by, to }) =>
      by === 'send'
        ? `Open ${to} to them, or send them elsewhere.`
        : `Open ${to} to them, or correct "buy-at".`,
  ],
  'shows-missing': [
    ({ by, name, address }) =>
      `${NAMES_A_PAGE[by](name)} ${address}, and the site file has no such page.`,
    ({ address }) => `Add ${address} to the pages, or name another one.`,
  ],
  'target-undeclared': [
    ({ by, name, address }) =>
      `${LEADS_TO[by](name)} ${address}, which the site file does not declare. The website decides what is there.`,
    ({ address, meant }) =>
      meant === null
        ? `If ${address} is right, add it to the pages.`
        : `Name ${meant} if you meant that page. If ${address} is right, add it to the pages.`,
  ],
  'open-beneath': [
    ({ gate, above, who, scopes, isException }, { people }) =>
      isException
        ? `The gate ${gate} makes an exception from the gate ${above} above it: ${people(who)} may see ${inWords(scopes.map(({ pattern }) => pattern.text))}.`
        : `The gate ${gate} lets in ${people(who)}, whom the gate ${above} above it keeps out.`,
    ({ gate }) =>
      `If that is meant, accept this finding with a note. If it is not, add "narrows: yes" to ${gate}.`,
  ],
  'hidden-revealed': [
    ({ gate, above, who, answer }, { people }) =>
      `The gate ${above} hides its section from ${people(who)}, and the gate ${gate} in it answers them with ${ANSWERS[answer]}: they learn that the section exists.`,
    ({ gate }) =>
      `Write "do: hide" for them in ${gate}, or remove the entry: an exception in a hidden section hides by default.`,
  ],
  'full-access-wide': [
    ({ condition }) =>
      `Full access is given to ${printCondition(condition)}: people get it without a role, a group or a name.`,
    'Give it to a role, as in "full-access: role administrator".',
  ],
  'change-without-view': [
    ({ gate, who, page }, { people }) =>
      `The gate ${gate} lets ${people(who)} change ${page}, which they may not see.`,
    'Admit only those who may view the page, or open it to them.',
  ],
  'nobody-reaches': [
    ({ page, unmet, isByFullAccess, gates, leadsTo }) =>
      `Nobody reaches ${page}${isByFullAccess ? ' but by full access' : ''}: ${causeOf(unmet, gates, leadsTo)}.`,
    ({ gates }) =>
      gates.length > 0
        ? `See the gates ${gates.join(', ')}, or make the page a draft.`
        : 'See what closes it, or make the page a draft.',
  ],
  'offers-nothing': [
    ({ gate }) =>
      `The gate ${gate} offers what would admit, and nothing that is sold would: everyone is refused.`,
    'Admit the buyers of a product that has "buy-at", or write another "do".',
  ],
  'product-unused': [
    ({ product }) => `Nothing asks for the product ${product}: whoever buys it gets nothing by it.`,
    'Let a gate admit its buyers, put it into a bundle, or remove it.',
  ],
  'product-not-sold': [
    ({ gate, product }) =>
      `The gate ${gate} admits buyers of ${product}, which is sold nowhere: it has no "buy-at", nor has a bundle with it.`,
    'Say with "buy-at" where it is sold.',
  ],
  'buyer-kept-out': [
    ({ gate, product, pages, others }) =>
      `The gate ${gate} admits buyers of ${product}, and they are still kept out of ${inWords([...pages, ...(others > 0 ? [`${others} more`] : [])])}.`,
    'See the gates above that it narrows, and admit the same buyers there.',
  ],
  'otherwise-unused': [
    ({ gate, entry, condition }) =>
      `Entry ${entry} of the gate ${gate}, for ${printCondition(condition)}, never applies: nobody is left for it.`,
    'Remove it, or put it before the entry that takes everyone.',
  ],
  'gate-covers-nothing': [
    ({ gate, scopes }) =>
      `The gate ${gate} stands ${scopes.map(whereOf).join(', ')}, where the site file has no page.`,
    'Fix its address, add the pages, or remove the gate.',
  ],
  'menu-leads-nowhere': [
    ({ menu, links }, { people }) =>
      `The menu ${menu} leads some of those who see it to a refusal or to nothing: ${links.map(({ link, who }) => `${link} (${people(who)})`).join('; ')}.`,
    'Write "shows: usable", so that each visitor sees the links that work for them.',
  ],
  'menu-redirects': [
    ({ menu, link, location }) =>
      `The menu ${menu} links to ${link}, which redirects to ${location ?? 'another address'}: each click costs a second request.`,
    'Link to the address where the redirect ends.',
  ],
  'unlisted-linked': [
    ({ page, menu }) =>
      `${page} is kept from search engines, and the menu ${menu} leads them to it.`,
    'Take it out of the menu, or let it be listed.',
  ],
  'redirect-loop': [
    ({ address, met, who, source, target, isItself }, { people }) => {
      if (!isItself) return `${address} sends ${people(who)} round and round: ${met.join(' → ')}.`;
      return source === target
        ? `The redirect from ${source} leads ${people(who)} to itself, without end.`
        : `${source} and ${target} are one address on this site. The redirect leads ${people(who)} from ${address} to itself, without end.`;
    },
    ({ source, target, isItself }) => {
      if (!isItself) return 'Let it redirect to a page, or remove one of the redirects.';
      return source === target ? 'Remove it.' : 'Remove it: tidying already does this.';
    },
  ],
  'redirect-chain': [
    ({ source, met }) => `${source} redirects to another redirect: ${met.join(' → ')}.`,
    ({ met }) => `Let it redirect to ${met.at(-1)} at once.`,
  ],
  'redirect-shadowed': [
    ({ source, before }) =>
      before.length === 1
        ? `The redirect from ${source} never applies: the one from ${before[0]!.source} (line ${before[0]!.line}) comes first.`
        : `The redirect from ${source} never applies: those from ${inWords(before.map((one) => `${one.source} (line ${one.line})`))} come first.`,
    'Remove it, or give it the higher "rank".',
  ],
  'redirect-dead-end': [
    ({ source, location, who }, { people }) =>
      `${source} redirects ${who === null ? '' : `${people(who)} `}to ${location}, and there is no such page.`,
    'Let it redirect to a page that is there, or remove it and let the address be missing.',
  ],
  'redirect-hides-page': [
    ({ source, pages, isForEveryone }) =>
      `The redirect from ${source} stands before ${pages.join(', ')}: ${isForEveryone ? 'nobody reaches what is there' : 'those it is for do not reach what is there'}.`,
    'Write "unless-page: yes", or remove the page or the redirect.',
  ],
  'redirect-to-closed': [
    ({ source, location, who }, { people }) =>
      `${source} redirects to ${location}, which ${people(who)} can't see.`,
    'Say with "when" whom it is for, and send everyone else elsewhere.',
  ],
  'redirect-permanent-for-some': [
    ({ source }) =>
      `The redirect from ${source} is called permanent and depends on who asks; it is sent as temporary, so that no browser keeps it for someone else.`,
    'Write "kind: temporary".',
  ],
  'rewrite-dead-end': [
    ({ source, served }) => `${source} is served from ${served}, and there is no such page.`,
    'Serve it from a page that is there, or add the page.',
  ],
  'rewrite-hides-page': [
    ({ source, pages, serve, isForEveryone }) =>
      `The rewrite of ${source} applies to ${pages.join(', ')} too: ${isForEveryone ? 'everyone' : 'some visitors'} will see ${serve} there instead of the page.`,
    'Write "unless-page: yes", or give the page another address.',
  ],
  'rewrite-round-gate': [
    ({ gate, source, serve, who }, { people }) =>
      `The gate ${gate} at ${source} turns ${people(who)} away, who get the same by asking for ${serve}.`,
    ({ served }) =>
      `Put the gate at ${served} too, or write "canonical: yes", so that the other address redirects here.`,
  ],
  'no-example': [
    ({ page, example }) =>
      `No address of the page ${page} was found for the grid; ${example} is none.`,
    'Give the page an "example", or leave it out with "grid: no".',
  ],
  'person-page-clash': [
    ({ page, pattern, visitor }) =>
      `The page ${page} has the address of a person: ${visitor === null ? `${pattern} is for people by name` : `${visitor} would have it by ${pattern}`}.`,
    'Give the page an address that no name can have, or see to it that nobody takes this name.',
  ],
  'date-passed': [
    ({ kind, name, validUntil }, { day }) =>
      `The ${kind} ${name} ended on ${day(validUntil)}${kind === 'gate' ? ': what it closed is open, or left to the gate above' : ''}.`,
    'Remove it, or give it a later date.',
  ],
  tie: [
    ({ kind, rules, address }) =>
      `The ${kind} ${inWords(rules.map(({ name, line }) => `${name} (line ${line})`))} ${address === null ? 'are for the same addresses' : `are all for ${address}`}, and only their names settle which one applies.`,
    'Remove all but one, or give the one that is to apply a higher "rank".',
  ],
  'draft-waited': [
    ({ version, days }) =>
      `Version ${version} of the draft was saved ${days} days ago, and is not released: what is live is something else.`,
    'Compare it with what is live, and release it; or restore the version that is live.',
  ],
  'too-many-cases': [
    () =>
      'Some findings were not looked for: conditions, or patterns within the address of a page, have more distinct cases than can be told apart.',
    'Write the conditions shorter, or let fewer patterns stand within one page.',
  ],
  'unused-acceptance': [
    ({ finding, about }) =>
      `"${finding}"${about === null ? '' : ` about ${about}`} is accepted, and there is no such finding.`,
    'Remove the entry.',
  ],
};

const NEEDS: Readonly<Record<FindingValues['newcomer-page-closed']['need'], string>> = {
  home: 'the home page',
  registration: 'where people get an account',
  asset: 'which pages that are open to guests may need',
};

/** Why nobody reaches a page. */
function causeOf(
  unmet: Condition | null,
  gates: readonly string[],
  leadsTo: string | null,
): string {
  if (unmet !== null) return `"${printCondition(unmet)}" can't be met`;
  if (gates.length > 0) return 'its gate admits nobody';
  return leadsTo === null
    ? 'its visits end elsewhere'
    : `it leads to ${leadsTo}, which nobody reaches`;
}

const ANSWERS: Readonly<Record<FindingValues['hidden-revealed']['answer'], string>> = {
  'sign-in': 'a request to sign in',
  refuse: 'a refusal',
  send: 'a redirect',
  offer: 'an offer',
};

const NAMES_A_PAGE: Readonly<
  Record<FindingValues['shows-missing']['by'], (name: string) => string>
> = {
  gate: (name) => `The gate ${name} shows`,
  'not-found': (name) => `The not-found rule under ${name} shows`,
  product: (name) => `The product ${name} is sold at`,
};

const LEADS_TO: Readonly<
  Record<FindingValues['target-undeclared']['by'], (name: string) => string>
> = {
  ...NAMES_A_PAGE,
  site: () => 'The sign-in page of the site is',
  gate: (name) => `The gate ${name} leads to`,
  scope: (name) => `The gate ${name} covers`,
  redirect: (name) => `The redirect ${name} leads to`,
  rewrite: (name) => `The rewrite ${name} serves`,
  menu: (name) => `The menu ${name} links to`,
  landing: () => 'A landing leads to',
};

const whereOf = ({ pattern, under }: Scope): string => `${under ? 'under' : 'at'} ${pattern.text}`;
