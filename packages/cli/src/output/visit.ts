import { isLeftToWebsite, OUTCOME_WORDS, WEBSITE_DECIDES } from '@kleidon/client';
import { decisions, type model, type queries } from '@kleidon/core';
import { bold, count, dim, paint } from './style.ts';
import { wrapped } from './wrapped.ts';

/**
 * A visit as one person explains it to another: each hop with its reasons, then how it ended.
 * @param all also the steps that had no effect
 */
export function printVisit(visit: queries.ExplainedVisit, all: boolean): string {
  const [first] = visit.hops;
  const method = visit.method === 'GET' ? '' : ` with ${visit.method}`;
  return [
    `${bold(visit.visitor)} asks for ${bold(first!.address)}${method} ${dim(`at ${visit.at}`)}`,
    ...visit.hops.map((hop, position) => printHop(hop, position + 1, all)),
    '',
    printEnd(visit),
    ...printOrdinary(visit),
  ].join('\n');
}

/** What others meet, for whoever would conclude from a visit with full access that all can read it. */
function printOrdinary({ ordinary }: queries.ExplainedVisit): string[] {
  if (ordinary.length === 0) return [];
  const width = Math.max(...ordinary.map(({ who }) => who.length));
  return [
    '',
    'Without full access:',
    ...ordinary.map(({ who, outcome, status, final }) => {
      const { sign, word } = OUTCOME_WORDS[outcome];
      return `  ${who.padEnd(width)}  ${paint[outcome](`${sign} ${word}`)}: ${status} at ${final}`;
    }),
  ];
}

function printHop(
  { address, decision }: queries.ExplainedHop,
  number: number,
  all: boolean,
): string {
  const where = decision.location === null ? '' : ` → ${decision.location}`;
  const told = decision.reasons.filter(({ verdict }) => all || verdict !== 'passed');
  const left = decision.reasons.length - told.length;
  const folded = left === 0 ? [] : [dim(`   ${count(left, 'step')} without effect (--all)`)];
  const reasons = [...told.map(printReason), ...folded];
  const shown = decision.content
    ? [`             ${dim('shown')} ${inWords(decision.content)}`]
    : [];
  return [
    '',
    `${number}. ${bold(address)}  ${statusOf(decision)}${where}`,
    ...reasons,
    ...shown,
  ].join('\n');
}

const statusOf = (decision: queries.ExplainedHop['decision']): string =>
  isLeftToWebsite(decision) ? WEBSITE_DECIDES : String(decision.status);

function inWords(content: decisions.Content): string {
  switch (content.is) {
    case 'words':
      return `“${content.text}”`;
    case 'page':
      return `the page ${content.address}`;
    case 'wait':
      return `${content.text === null ? 'a page' : `“${content.text}”`}, and a link to ${content.to}`;
    case 'offers':
      return content.choices
        .map((set) =>
          set
            .map(
              ({ title, buyAt, isRenewal }) => `${title}${isRenewal ? ' renewed' : ''} at ${buyAt}`,
            )
            .join(' and '),
        )
        .join(', or ');
  }
}

function printReason({ stage, verdict, text, place }: queries.ExplainedReason): string {
  const line = wrapped(
    `   ${stage.padEnd(9)} `,
    `${text}${place ? dim(` (${placeInWords(place)})`) : ''}`,
  );
  return verdict === 'passed' ? dim(line) : line;
}

const placeInWords = ({ file, line }: model.SourceLocation): string =>
  file === undefined ? `line ${line}` : `${file}, line ${line}`;

function printEnd(visit: queries.ExplainedVisit): string {
  const { sign, word } = OUTCOME_WORDS[visit.outcome];
  const redirects = decisions.redirectsOf(visit);
  const after = redirects === 0 ? '' : `, after ${count(redirects, 'redirect')}`;
  const access = visit.fullAccess ? ', by full access' : '';
  return `${paint[visit.outcome](bold(`${sign} ${word}`))}: ${statusOf(visit.hops.at(-1)!.decision)} at ${visit.final}${after}${access}`;
}
