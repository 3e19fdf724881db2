import { FROM, UNTIL } from './common-fields.ts';
import { column, fields, flag, names, oneOf, text, textList } from './schema-kinds.ts';

export const productSchema = fields('a product', {
  title: text('text', 'Title'),
  term: oneOf(['subscription', 'once'], 'once', 'Term'),
  'buy-at': text('address', 'Sold at'),
  'renew-at': text('address', 'Renewed at', 'where it is sold, if empty'),
  grace: text('duration', 'Days of grace', '3d: in force so long after its end'),
  includes: names('product', 'Includes', 'a bundle of these'),
});

export const pageSchema = fields(
  'a page',
  {
    title: column(text('text', 'Title'), 'name', 'heading'),
    kind: column(oneOf(['document', 'file'], 'document', 'Kind'), 'type'),
    draft: column(flag('no', 'A draft: only those with full access see it')),
    listed: column(flag('yes', 'Not listed by search engines'), 'indexed'),
    grid: flag('yes', 'Left out of the grid and of probes'),
    https: column(oneOf(['required'], null, 'Only over HTTPS')),
    from: column(FROM(), 'opens', 'start'),
    until: column(UNTIL(), 'closes', 'end'),
    'leads-to': column(text('address', 'Redirects to', 'a page, a file or another site'), 'target'),
    refresh: column(text('duration', 'Browsers ask for it again after', '60s, 5m or 1h')),
    'missing-unless': text('condition', 'Missing unless'),
    aliases: textList('pattern', 'Other addresses, which redirect to it'),
    example: column(text('text', 'Example', 'a real address, for a pattern')),
  },
  ['grid', 'https', 'from', 'until', 'refresh', 'missing-unless', 'aliases', 'example'],
);
