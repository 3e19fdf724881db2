import { isRecord } from '../../model/plain-value.ts';
import { EXPECTED_METHODS } from '../../model/expected-visit.ts';
import { OUTCOMES } from '../../model/outcome.ts';
import { DEMANDS } from '../../model/guarantee.ts';
import { FROM, UNTIL, NOTE, RANK, ONLY_WHERE_NO_PAGE } from './common-fields.ts';
import { visitorSchema } from './visitor-schema.ts';
import {
  column,
  complain,
  fields,
  flag,
  group,
  listOf,
  number,
  oneOf,
  required,
  someOf,
  text,
  textList,
} from './schema-kinds.ts';

export const gateSchema = fields(
  'a gate',
  {
    under: textList('scope', 'Under', 'these addresses and all beneath them'),
    at: textList('scope', 'At', 'exactly these addresses'),
    right: oneOf(['view', 'change'], 'view', 'Right'),
    admit: required(text('condition', 'Admits'), 'admit: signed-in'),
    narrows: flag('no', 'The gate above must admit too'),
    'full-access': flag('yes', 'Full access does not pass here'),
    otherwise: listOf(
      fields('otherwise', {
        who: text('condition', 'Who', 'a condition; anyone where empty'),
        do: required(
          oneOf(['sign-in', 'refuse', 'send', 'offer', 'hide'], null, 'What happens'),
          'do: refuse',
        ),
        say: text('text', 'Words, for refuse'),
        show: text('address', 'Page shown, for refuse'),
        to: text('address', 'Where to, for send'),
      }),
      'otherwise',
      'Everyone else, the first entry that fits',
      'entry for everyone else',
    ),
    from: FROM(),
    until: UNTIL(),
    rank: RANK(),
  },
  ['right', 'narrows', 'full-access', 'from', 'until', 'rank'],
).test('somewhere', (value, context) =>
  isRecord(value) && value['under'] === undefined && value['at'] === undefined
    ? complain(context, { code: 'gate-without-scope' })
    : true,
);

export const redirectSchema = fields(
  'a redirect',
  {
    from: column(
      required(text('pattern', 'From', 'an address or a pattern'), 'from: /old'),
      'source',
      'old',
      'oldaddress',
      'oldurl',
      'request',
    ),
    to: column(
      required(text('address', 'To', 'its pieces are filled in'), 'to: /new'),
      'target',
      'destination',
      'new',
      'newaddress',
      'newurl',
    ),
    kind: column(
      oneOf(['permanent', 'temporary'], 'temporary', 'Kind', undefined, [301, 302, 303, 307, 308]),
      'type',
      'status',
      'code',
    ),
    query: column(oneOf(['keep', 'drop'], 'drop', 'Query')),
    when: column(text('condition', 'Only for'), 'condition', 'for'),
    since: column(text('moment', 'Since'), 'begins', 'start'),
    until: column(UNTIL(), 'ends', 'end', 'expires'),
    'unless-page': column(ONLY_WHERE_NO_PAGE()),
    'keep-for': column(text('duration', 'Browsers keep it for', '5m or 24h, if permanent')),
    wait: column(text('duration', 'Waits on a page in between', '5s; with a link'), 'delay'),
    say: column(text('text', 'Words of that page'), 'words'),
    note: column(NOTE(), 'comment', 'reason', 'why'),
    rank: column(RANK(), 'priority'),
  },
  ['query', 'when', 'since', 'until', 'unless-page', 'keep-for', 'wait', 'say', 'note', 'rank'],
);

export const rewriteSchema = fields(
  'a rewrite',
  {
    from: required(text('pattern', 'From', 'an address or a pattern'), 'from: /people/:name'),
    serve: required(
      text('address', 'Served from', '/activity?person=:name'),
      'serve: /activity?person=:name',
    ),
    canonical: flag('no', 'What is served redirects here'),
    when: text('condition', 'Only for'),
    'unless-page': ONLY_WHERE_NO_PAGE(),
    since: text('moment', 'Since'),
    until: UNTIL(),
    note: NOTE(),
    rank: RANK(),
  },
  ['when', 'unless-page', 'since', 'until', 'note', 'rank'],
);

export const notFoundSchema = fields(
  'a not-found rule',
  {
    under: required(text('scope', 'Under'), 'under: /'),
    show: text('address', 'Shows the page'),
    say: text(
      'text',
      'Or says',
      '{path.name} is a piece of the address, {rest} what is left of it',
    ),
    status: oneOf([404, 410], 404, 'Status', '404, or 410 for gone'),
    rank: RANK(),
  },
  ['status', 'rank'],
).test('something', (value, context) =>
  isRecord(value) && value['show'] === undefined && value['say'] === undefined
    ? complain(context, { code: 'not-found-without-content' })
    : true,
);

export const landingSchema = fields(
  'a landing',
  {
    after: required(oneOf(['sign-in', 'sign-out'], null, 'After'), 'after: sign-in'),
    who: text('condition', 'Who'),
    go: required(text('address', 'Go to'), 'go: /'),
    'return-first': flag('no', 'The return address goes first'),
    rank: RANK(),
  },
  ['return-first', 'rank'],
);

export const partSchema = fields('a part', {
  admit: required(text('condition', 'Seen by'), 'admit: signed-in'),
});

export const menuSchema = fields('a menu', {
  links: required(textList('address', 'Links'), 'links: [/, /about]'),
  on: textList('scope', 'On the pages under', 'everywhere where empty'),
  shows: oneOf(
    ['everything', 'usable'],
    'everything',
    'Shows',
    'usable: links that this visitor does not reach are left out',
  ),
});

export const guaranteeSchema = fields(
  'a guarantee',
  {
    who: text('condition', 'Who', 'anyone where empty'),
    never: someOf(DEMANDS, 'Never'),
    always: someOf(DEMANDS, 'Always', 'one of these'),
    under: textList('scope', 'Under', 'these addresses and all beneath them'),
    at: textList('scope', 'At', 'exactly these addresses'),
    links: flag('no', 'About the targets of menus, landings and redirects'),
    from: text('text', 'From', 'a day; or old addresses, such as https://old.example/*'),
    until: UNTIL(),
    hops: number('Redirects at most', 'for old addresses'),
    note: NOTE(),
  },
  ['links', 'from', 'until', 'hops'],
).test('one-demand', (value, context) =>
  isRecord(value) && (value['never'] === undefined) === (value['always'] === undefined)
    ? complain(context, { code: 'guarantee', fault: 'one-demand' })
    : true,
);

export const expectedVisitSchema = fields(
  'an expected visit',
  {
    address: required(text('text', 'Address'), 'address: /crew'),
    as: text('visitor', 'As', 'a visitor of the site file; a guest where empty'),
    outcome: oneOf(OUTCOMES, null, 'Outcome'),
    final: text('address', 'Final address'),
    status: number('Status'),
    hops: number('Redirects'),
    at: text('moment', 'At', 'now where empty'),
    method: oneOf(EXPECTED_METHODS, 'GET', 'Method'),
    visitor: group(visitorSchema, 'Someone made up for it'),
    note: NOTE(),
  },
  ['status', 'hops', 'at', 'method', 'visitor'],
).test('expectation', (value, context) =>
  isRecord(value) &&
  (['outcome', 'status', 'final', 'hops'] as const).every((one) => value[one] === undefined)
    ? complain(context, { code: 'nothing-expected' })
    : true,
);

export const acceptedSchema = fields('an accepted finding', {
  finding: required(text('finding', 'Finding'), 'finding: tie'),
  about: text('text', 'About', 'all of this kind where empty'),
  note: required(NOTE(), 'note: On purpose, because …'),
});
