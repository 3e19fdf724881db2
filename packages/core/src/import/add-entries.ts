import { patchSite } from '../site/edit/patch.ts';
import { planEdits } from '../site/edit/plan-edits.ts';
import { pointer } from '../site/yaml/pointer.ts';
import type { Addition, Change, Proposal } from './proposal.ts';

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
export const addEntries = (text: string, additions: readonly Addition[]): string =>
  patchSite(
    text,
    additions.map(({ section, name, value }) => ({
      op: 'add',
      path: pointer(section, section === 'redirects' ? '-' : name),
      value,
    })),
  );
