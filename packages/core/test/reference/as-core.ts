import type { model } from '../../src/index.ts';
import { someone } from '../support.ts';
import type { Condition, File, Person } from './model.ts';
import { printed } from './random-site.ts';

const isCondition = (value: unknown): value is Condition =>
  typeof value === 'object' && value !== null && 'is' in value;

/** A file as YAML reads it: JSON, with conditions as text. */
export const asText = (file: File): string =>
  JSON.stringify(
    {
      kleidon: 1,
      roles: { r: 'R', s: 'S' },
      ...file,
      site: {
        name: 'T',
        ...file.site,
        ...(file.site.also ? { also: file.site.also.map((host) => `https://${host}`) } : {}),
      },
    },
    (_, value: unknown) => (isCondition(value) ? printed(value) : value),
    1,
  );

export const asVisitor = ({ guest, id = 'sam', roles, bought, tags }: Person): model.Visitor =>
  someone({
    guest,
    id: guest ? null : id,
    roles,
    bought: bought.map((product) => ({
      product,
      from: null,
      until: null,
      refunded: false,
      paused: false,
    })),
    attributes: tags.length > 0 ? { tags } : {},
  });
