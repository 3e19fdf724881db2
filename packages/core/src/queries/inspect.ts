import type { PreparedSite } from '../decision/prepared-site.ts';
import { findFindings } from '../findings/findings.ts';
import { accepts } from '../findings/unused-acceptance.ts';
import { aboutOf, type Finding, type FindingDraft } from '../model/finding.ts';
import { printedValues } from '../wording/printed-values.ts';
import { productTitles } from '../wording/condition.ts';
import { describeFinding } from '../wording/finding.ts';

/**
 * Finds what looks wrong in a site, in the order of the site file, with its sentences.
 *
 * @param file what the site file is called in the findings
 * @param at the moment for which the site is looked at, in milliseconds since 1970
 */
export function inspect(prepared: PreparedSite, file: string, at: number): Finding[] {
  return findFindings(prepared, at).map((found) => told(found, prepared, file));
}

function told(found: FindingDraft, { site }: PreparedSite, file: string): Finding {
  const { code, severity, subject, place, fix = null } = found;
  const words = { timeZone: site.timeZone, titles: productTitles(site.products) };
  return {
    code,
    severity,
    subject,
    about: aboutOf(subject),
    values: printedValues(found.values),
    ...describeFinding(found, words),
    fix,
    file,
    ...place,
  };
}

/** After so many days a draft that is not released may be forgotten, or be released by mistake with the next one. */
const LONG = 14;
const DAY = 86_400_000;

/**
 * A draft that differs from what is live, and has for long.
 *
 * @param savedAt when it was saved, and `at` the moment of the question, in milliseconds since 1970
 * @returns null where it has not been long, or where the site file accepts it
 */
export function draftWaited(
  prepared: PreparedSite,
  file: string,
  version: number,
  savedAt: number,
  at: number,
): Finding | null {
  const days = Math.floor((at - savedAt) / DAY);
  const { accepted, place } = prepared.site;
  const found: FindingDraft = {
    code: 'draft-waited',
    severity: 'low',
    subject: { kind: 'site', name: 'draft' },
    place,
    values: { version, days },
  };
  return days < LONG || accepted.some((one) => accepts(one, found))
    ? null
    : told(found, prepared, file);
}
