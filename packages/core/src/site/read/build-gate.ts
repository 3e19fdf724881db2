import type { YamlPath, SiteDocument } from '../yaml/document.ts';
import type { EntryOf } from '../fields/entries.ts';
import type { FieldReader } from './field-reader.ts';
import { isYes } from '../fields/schema-kinds.ts';
import { buildScopes } from './build-scopes.ts';
import type { Gate, Otherwise } from '../../model/site.ts';

/** A piece may be used only when every address of a gate has it; otherwise it would be absent for some. */
export const sharedPieces = ([first = [], ...others]: readonly (readonly string[])[]): string[] =>
  first.filter((piece) => others.every((names) => names.includes(piece)));

/** Builds a gate. */
export function buildGate(
  name: string,
  entry: EntryOf<'gates'>,
  read: FieldReader,
  document: SiteDocument,
): Gate {
  const path: YamlPath = ['gates', name];
  const scopes = buildScopes(entry, read, path);
  const shared = sharedPieces(scopes.map(({ pattern }) => pattern.names));
  return {
    name,
    scopes,
    right: entry.right ?? 'view',
    admit: read.condition(entry.admit, [...path, 'admit'], { names: shared }),
    otherwise: (entry.otherwise ?? []).map((step, position): Otherwise => {
      const at = [...path, 'otherwise', position];
      const who =
        step.who === undefined
          ? { is: 'anyone' as const }
          : read.condition(step.who, [...at, 'who'], { names: shared });
      read.onlyWith(step, { say: 'refuse', show: 'refuse', to: 'send' }, at);
      if (step.do === 'refuse') {
        if (step.show !== undefined) read.localAddress(step.show, [...at, 'show']);
        return { who, do: 'refuse', say: step.say ?? null, show: step.show ?? null };
      }
      if (step.do === 'send') {
        read.needs(step.to, 'to', 'to: /join', at);
        if (step.to !== undefined) read.address(step.to, [...at, 'to']);
        return { who, do: 'send', to: step.to ?? '/' };
      }
      return { who, do: step.do };
    }),
    ...read.period(entry.from, entry.until, path),
    narrows: isYes(entry.narrows),
    fullAccess: entry['full-access'] === undefined || isYes(entry['full-access']),
    rank: entry.rank ?? 0,
    place: document.keyAt(path),
  };
}
