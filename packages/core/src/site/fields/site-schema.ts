import { fields, group, names, oneOf, required, text, textList } from './schema-kinds.ts';

/** The fields of the site itself. */
export const siteSchema = fields('site', {
  name: required(text('text', 'Name'), 'name: My site'),
  address: required(text('text', 'Address', 'protocol and host'), 'address: https://www.example'),
  also: textList('host', 'Other hosts, which redirect to it'),
  ungated: oneOf(['open', 'closed'], 'open', 'Pages without a gate are', 'closed: to guests'),
  undeclared: oneOf(
    ['missing', 'website'],
    'missing',
    'Addresses that no page has',
    'website: the website answers, where the gates admit',
  ),
  change: oneOf(
    ['as-view', 'gated-only'],
    'as-view',
    'Who may change a page without a gate for changes',
    'as-view: whoever may view it; gated-only: nobody',
  ),
  'sign-in': text('address', 'Guests sign in at'),
  servers: textList('host', 'Other servers that rewrites may serve from'),
  'full-access': text('condition', 'Admitted everywhere'),
  'full-access-right': oneOf(
    ['view', 'change'],
    'change',
    'What those with full access may do',
    'view: only look; change: both',
  ),
  tidy: group(
    fields('tidy', {
      case: oneOf(['lower', 'keep'], 'lower', 'Letter case'),
      'final-slash': oneOf(['drop', 'add', 'keep'], 'drop', 'Final slash'),
      endings: names('text', 'Endings dropped', 'such as .html'),
      index: names('text', 'Index names', 'index, or an address of the home page such as /home'),
      words: oneOf(['-', '_', 'keep'], 'keep', 'Between words'),
      allow: names('text', 'Allowed characters', 'that the website takes as ordinary ones'),
    }),
    'One form of each address',
  ),
  'time-zone': text('text', 'Time zone', 'such as Europe/London'),
});
