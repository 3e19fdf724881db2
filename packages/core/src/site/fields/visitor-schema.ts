import { FROM, UNTIL } from './common-fields.ts';
import { attributes, column, fields, flag, listOf, names, required, text } from './schema-kinds.ts';

const purchase = fields('a purchase', {
  product: required(text('product', 'Product'), 'product: hide-permit'),
  from: FROM(),
  until: UNTIL(),
  refunded: flag('no', 'Refunded'),
  paused: flag('no', 'Paused'),
});

/** One visitor; the same shape is used for one made up on the spot. */
export const visitorSchema = fields(
  'a visitor',
  {
    title: column(text('text', 'Title'), 'fullname', 'displayname'),
    guest: column(flag('no', 'A guest, not signed in')),
    id: column(text('text', 'Id', 'the name where empty')),
    roles: column(names('role', 'Roles'), 'role'),
    groups: column(names('group', 'Groups'), 'group'),
    bought: column(
      listOf(purchase, 'bought', 'Purchases', 'purchase'),
      'products',
      'product',
      'purchases',
    ),
    attributes: attributes('Attributes, one a line', 'name: value'),
    language: column(text('text', 'Language'), 'locale'),
  },
  ['id', 'attributes', 'language'],
);
