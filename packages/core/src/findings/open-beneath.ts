import { lookUp } from '../pattern/index-of-patterns.ts';
import { leftOut } from '../reach/left-out.ts';
import { pathOf } from '../reach/who-reaches.ts';
import type { Gate } from '../site/site.ts';
import type { Found, Inspected } from './found.ts';

/** A gate inside a section lets people in whom the section keeps out. */
export function openBeneath({ prepared }: Inspected): Found[] {
  const seen = new Set<string>();
  return prepared.site.pages.flatMap((page): Found[] => {
    const [inner, outer] = lookUp(prepared.gates.view, pathOf(prepared, page)).map(
      ({ rule }) => rule,
    );
    if (!inner || !outer || inner.narrows || seen.has(inner.name) || !isSection(outer)) return [];
    const who = leftOut(prepared, inner.admit, outer.admit);
    if (who === null) return [];
    seen.add(inner.name);
    return [
      {
        code: 'open-beneath',
        severity: 'medium',
        about: `gate ${inner.name}`,
        place: inner.place,
        message: `The gate ${inner.name} lets in ${who}, whom the gate ${outer.name} above it keeps out.`,
        remedy: `If that is not meant, add "narrows: yes" to ${inner.name}; if it is, accept this finding with a note.`,
        fix: [
          {
            op: 'add',
            path: `/gates/${inner.name.replace(/~/g, '~0').replace(/\//g, '~1')}/narrows`,
            value: 'yes',
          },
        ],
      },
    ];
  });
}

const isSection = ({ extents }: Gate): boolean => extents.some(({ under }) => under);
