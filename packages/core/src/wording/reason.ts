import { printCondition } from '../condition/print.ts';
import type {
  GateValues,
  NamedRule,
  ReasonCode,
  ReasonValues,
  Told,
  TurnedAway,
  Who,
} from '../model/reason.ts';
import type { Scope } from '../model/site.ts';
import { inWords } from '../text/list.ts';
import { printDay } from '../time/instant.ts';
import { ADDRESS_PROBLEMS } from './address-problem.ts';

/**
 * What a reason says, in English.
 * @param reason its code and values
 * @param timeZone the time zone of the site, in which days are told
 */
export function describeReason<C extends ReasonCode>(
  { code, values }: Told<C>,
  timeZone: string,
): string {
  const describe = SENTENCES[code] as (values: ReasonValues[C], day: Day) => string;
  return describe(values, (moment) => printDay(moment, timeZone));
}

type Day = (moment: number) => string;

const SENTENCES: { readonly [C in ReasonCode]: (values: ReasonValues[C], day: Day) => string } = {
  'well-formed': () => 'The address is well formed.',
  'not-well-formed': ({ problem }) => ADDRESS_PROBLEMS[problem],

  'primary-host': () => 'This is the primary host.',
  'other-host': ({ host, primary }) =>
    `${host} is another name of this site; its primary host is ${primary}.`,
  'host-of-redirects': ({ host }) => `Some redirects are for ${host}.`,
  'unknown-host': ({ host }) => `${host} is not a host of this site.`,

  'protocol-as-required': () => 'The request came as the page asks.',
  'page-requires-https': ({ page }) => `The page ${page} is only to be had over HTTPS.`,
  'site-requires-https': () => 'This site is only to be had over HTTPS.',

  'no-redirect': () => 'No redirect matches.',
  'redirects-only': ({ host }) => `${host} is there for redirects alone.`,
  redirected: ({ source, location, isPermanent, isDemoted, wait, note }) =>
    [
      `${source} redirects to ${location}, ${isPermanent ? 'permanently' : 'temporarily'}${wait === null ? '' : `, after ${wait} seconds on a page in between`}.`,
      ...(isDemoted ? ['It is sent as temporary, because it is not for everyone.'] : []),
      ...(note === null ? [] : [`Note: ${note}.`]),
    ].join(' '),
  'other-query': ({ source }) => `The redirect from ${source} is for another query.`,
  'not-inverse': ({ source }) => `${source} would serve something else than this address.`,
  'target-hidden': (who) => `The page of this address is hidden from ${called(who)}.`,

  'not-yet': ({ validFrom, ...rule }, day) => `${subject(rule)} begins on ${day(validFrom)}.`,
  'no-longer': ({ validUntil, ...rule }, day) => `${subject(rule)} ended on ${day(validUntil)}.`,
  'for-others': ({ when, ...others }) =>
    `${subject(others)} is for ${printCondition(when)}, and ${called(others)} is not among them.`,
  'page-is-there': (rule) =>
    `${subject(rule)} applies only where there is no page, and there is one.`,
  'less-specific': (rule) => `${subject(rule)} matches too, and is less specific.`,

  'one-form': () => 'This is the one form of the address.',
  'other-address': ({ address, primary }) => `${address} is another address of ${primary}.`,
  'other-spelling': ({ path }) => `${path} is the one form of this address.`,

  'no-rewrite': () => 'No rewrite matches.',
  rewritten: ({ source, location }) => `${source} is served from ${location}.`,
  'no-address-to-serve': ({ source }) => `What ${source} would be served from is no address.`,

  'ungated-open': (at) => `No gate covers ${address(at)}, and pages without one are open.`,
  'ungated-signed-in': (at) => `No gate covers ${address(at)}: whoever is signed in may see it.`,
  'ungated-closed': (at) =>
    `No gate covers ${address(at)}, and pages without one are closed to guests.`,
  'ungated-change': () => 'No gate admits anyone to change something here.',
  'ungated-change-by-full-access': (who) =>
    `No gate admits anyone to change something here; ${called(who)} has full access and passes all the same.`,
  'less-near': ({ gate }) => `The gate ${gate} covers this address too, and is less near.`,
  admitted: (values) => `${gateInWords(values)}: ${called(values)} may ${values.right}.`,
  'admitted-by-full-access': ({ gate, ...who }) =>
    `The gate ${gate} does not admit ${called(who)}, who has full access and passes all the same.`,
  'not-admitted': (values) =>
    `${gateInWords(values)}, and ${called(values)} is not among them: ${turnedAway(values.then)}.`,

  'no-page': (at) => `There is no page at ${address(at)}.`,
  'page-found': ({ page, title }) => `The page ${page} is here: ${title}.`,
  undeclared: () => 'No page is declared here. The website decides what is there.',
  'on-other-server': ({ origin }) => `What is there is for ${origin} to say.`,
  'page-draft': ({ page }) => `The page ${page} is a draft.`,
  'page-not-yet': ({ page, validFrom }, day) => `The page ${page} opens on ${day(validFrom)}.`,
  'page-no-longer': ({ page, validUntil }, day) => `The page ${page} closed on ${day(validUntil)}.`,
  'page-missing-unless': ({ page, condition }) =>
    `The page ${page} is there only if ${printCondition(condition)}.`,

  'page-leads-to': ({ page, location }) => `The page ${page} redirects to ${location}.`,
  shown: () => 'The page is shown.',
  'no-not-found-rule': () => 'No not-found rule covers this address.',
  'not-found-rule': ({ under }) =>
    `Nothing is here; the not-found rule under ${under} says what is shown.`,
};

const address = ({ isServed }: { readonly isServed: boolean }): string =>
  isServed ? 'the address that it is served from' : 'this address';

function subject({ kind, name }: NamedRule): string {
  switch (kind) {
    case 'gate':
      return `The gate ${name}`;
    case 'redirect':
      return `The redirect from ${name}`;
    case 'rewrite':
      return `The rewrite of ${name}`;
  }
}

/** How a visitor is called: “Vik (volunteer)”. */
function called({ title, summary }: Who): string {
  return title.toLowerCase() === summary ? `a ${summary}` : `${title} (${summary})`;
}

/** “The gate crew-room on /crew and all beneath it admits crew”. */
const gateInWords = ({ gate, scopes, admit }: GateValues): string =>
  `The gate ${gate} on ${inWords(scopes.map(printScope))} admits ${printCondition(admit)}`;

/** Where a rule stands, in words. */
export const printScope = ({ pattern, under }: Scope): string =>
  under ? `${pattern.text} and all beneath it` : pattern.text;

function turnedAway(then: TurnedAway): string {
  switch (then.do) {
    case 'sign-in':
      return 'asked to sign in';
    case 'no-sign-in-page':
      return 'refused, for the site has no page to sign in';
    case 'send':
      return `sent to ${then.to}`;
    case 'hide':
      return 'told that there is no such page';
    case 'nothing-sold':
      return 'refused, for nothing that is sold would admit';
    case 'offer':
      return `offered ${inWords(
        then.sets.map((titles) => inWords(titles)),
        'or',
      )}`;
    case 'refuse':
      return 'refused';
  }
}
