import { queries } from '../src/index.ts';
import { errorsOf, NOW, siteOf } from './support.ts';

const BODY = `roles: { crew: Crew }
pages: { /: Home, /sign-in: In, /crew: Crew, /new: { title: New, from: 2027-01-01 } }
gates: { g: { under: /crew, admit: role crew } }
redirects: [{ from: /old, to: /crew }]
visitors: { vik: { roles: [crew] } }
`;
const made = (visit: string): queries.MadeVisit =>
  queries.expectedVisits(siteOf(`${BODY}visits: [{ ${visit} }]\n`), NOW)[0]!;

test.each([
  'address: /crew, outcome: sign-in',
  'address: /old, as: vik, outcome: reach, final: /crew, hops: 1, status: 200',
  'address: /old, visitor: { roles: [crew] }, outcome: reach',
  'address: /new, status: 404',
  'address: /new, at: 2027-01-01, outcome: reach',
  'address: /crew, as: vik, method: POST, outcome: reach',
])('{ %s } ends as expected', (visit) => {
  expect(made(visit).isAsExpected).toBe(true);
});

test('one that ends otherwise says how, and what of it was expected', () => {
  expect(made('address: /old, as: vik, outcome: block, final: /crew, hops: 0')).toMatchObject({
    name: '#1',
    words: 'GET /old by Vik (crew)',
    isAsExpected: false,
    message:
      'It ends as reach (200) at /crew, after one redirect; expected the outcome block and no redirect.',
    line: 8,
  });
  expect(made('address: /new, at: 2027-02-01, status: 404').message).toBe(
    'It ends as reach (200) at /new, after no redirect; expected the status 404.',
  );
});

test.each([
  ['address: /crew', 'Nothing is expected of this visit.'],
  ['address: /crew, as: vikk, outcome: reach', 'No visitor is called "vikk".'],
  ['address: /crew, outcome: reached', 'not "reached"'],
  ['outcome: reach', '"address" is missing'],
  ['address: /crew, visitor: { roles: [king] }, outcome: reach', 'No role is called "king".'],
  ['address: /crew, outcome: reach, at: soon', '"soon" is not a date'],
])('{ %s } is an error', (visit, message) => {
  const errors = errorsOf(`${BODY}visits: [{ ${visit} }]\n`);
  expect(errors.map((one) => one.message).join(' ')).toContain(message);
});
