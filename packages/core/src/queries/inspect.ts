import type { PreparedSite } from '../decision/prepared-site.ts';
import { findFindings } from '../findings/findings.ts';
import { aboutOf, type Finding } from '../model/finding.ts';
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
  const words = {
    timeZone: prepared.site.timeZone,
    titles: productTitles(prepared.site.products),
  };
  return findFindings(prepared, at).map((found) => {
    const { code, severity, subject, place, fix = null } = found;
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
  });
}
