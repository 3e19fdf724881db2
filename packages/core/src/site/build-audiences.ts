import type { Condition } from '../condition/condition.ts';
import type { ErrorList } from './document.ts';
import type { Entries } from './entries.ts';
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
  for (const name of Object.keys(audiences)) {
    const circle = circleFrom(name, audiences);
    if (!circle) continue;
    list.atValue(
      'audience-circle',
      ['audiences', name],
      `This audience is defined by itself: ${circle.join(' → ')}.`,
      'Take one of them out of the other.',
    );
    // Cut, so that nothing that looks into audiences can go round and round.
    audiences[name] = { is: 'nobody' };
  }
  return audiences;
}

function circleFrom(name: string, audiences: Readonly<Record<string, Condition>>): string[] | null {
  const seen = new Set<string>();
  const follow = (at: string, trail: string[]): string[] | null => {
    if (at === name && trail.length > 0) return [...trail, at];
    if (seen.has(at)) return null;
    seen.add(at);
    const condition = audiences[at];
    if (!condition) return null;
    for (const next of audiencesIn(condition)) {
      const circle = follow(next, [...trail, at]);
      if (circle) return circle;
    }
    return null;
  };
  return follow(name, []);
}

function audiencesIn(condition: Condition): string[] {
  if (condition.is === 'audience') return [condition.name];
  if (condition.is === 'not') return audiencesIn(condition.of);
  return condition.is === 'and' || condition.is === 'or' ? condition.of.flatMap(audiencesIn) : [];
}
