import type { Condition } from '../../model/condition.ts';
import type { ErrorList } from '../yaml/document.ts';
import type { Entries } from '../fields/entries.ts';
import type { FieldReader } from './field-reader.ts';

/** Builds the audiences; one that is defined by itself is an error. */
export function buildAudiences(
  entries: Entries['audiences'],
  read: FieldReader,
  list: ErrorList,
): Record<string, Condition> {
  const audiences: Record<string, Condition> = {};
  for (const [key, text] of entries) {
    read.freeWord(String(key), ['audiences', key]);
    audiences[String(key)] = read.condition(text, ['audiences', key]);
  }
  checkNesting(audiences, list);
  return audiences;
}

/** Audiences within audiences: whatever looks into them must come to an end, and soon. */
const DEEPEST = 50;

/** Finds audiences that are defined by themselves, or nested too deeply, and cuts both. */
function checkNesting(audiences: Record<string, Condition>, list: ErrorList): void {
  /** How deep each is; null while its own are looked at. */
  const depths = new Map<string, number | null>();
  const cut = (name: string): void => {
    audiences[name] = { is: 'nobody' };
  };
  const depthOf = (name: string, trail: readonly string[]): number => {
    const known = depths.get(name);
    if (known !== undefined && known !== null) return known;
    if (known === null) {
      const circle = [...trail.slice(trail.indexOf(name)), name];
      list.atValue(['audiences', name], { code: 'audience-circle', circle });
      cut(name);
      return 0;
    }
    if (trail.length > DEEPEST) return DEEPEST + 1;
    depths.set(name, null);
    let depth = 0;
    for (const inner of new Set(audiencesIn(audiences[name] ?? { is: 'nobody' })))
      depth = Math.max(depth, 1 + depthOf(inner, [...trail, name]));
    depths.set(name, depth);
    return depth;
  };
  for (const name of Object.keys(audiences)) {
    if (depthOf(name, []) <= DEEPEST) continue;
    list.atValue(['audiences', name], { code: 'audience-too-deep', limit: DEEPEST });
    cut(name);
    depths.set(name, 0);
  }
}

function audiencesIn(condition: Condition): string[] {
  if (condition.is === 'audience') return [condition.name];
  if (condition.is === 'not') return audiencesIn(condition.of);
  return condition.is === 'and' || condition.is === 'or' ? condition.of.flatMap(audiencesIn) : [];
}
