import fc from 'fast-check';
import { decisions } from '../src/index.ts';
import { expectEqual, GUEST, NOW, siteOf, someone } from './support.ts';

const HEAD = `kleidon: 1
site: { name: D, address: https://d.example, sign-in: /sign-in }
roles: { a: x, b: x }
`;
const PAGES = 'pages: { /: Home, /s: S, /s/p: P, /s/p/q: Q, /sign-in: Sign in }\n';

interface DatedGate {
  readonly where: string;
  readonly right: string;
  readonly admit: string;
  readonly narrows: boolean;
  readonly from: string | null;
  readonly until: string | null;
}

const gateArbitrary: fc.Arbitrary<DatedGate> = fc.record({
  where: fc.constantFrom('under: /', 'under: /s', 'at: /s/p', 'under: /s/p', 'at: /s/p/q'),
  right: fc.constantFrom('view', 'change'),
  admit: fc.constantFrom('anyone', 'nobody', 'signed-in', 'role a', 'role b', 'guest'),
  narrows: fc.boolean(),
  from: fc.constantFrom(null, '2026-01-01', '2026-11-23', '2027-01-01'),
  until: fc.constantFrom(null, '2026-11-23', '2026-12-01', '2028-01-01'),
});

/** Whether a gate has a say at noon of 2026-11-23. */
const isNow = ({ from, until }: DatedGate): boolean =>
  (from === null || from <= '2026-11-23') && (until === null || until > '2026-11-23');
const isRight = ({ from, until }: DatedGate): boolean =>
  from === null || until === null || from < until;

const siteWith = (
  gates: readonly (DatedGate & { readonly name: string })[],
): decisions.PreparedSite =>
  siteOf(
    `${PAGES}gates: {${gates
      .map(
        ({ name, where, right, admit, narrows, from, until }) =>
          `${name}: { ${where}, right: ${right}, admit: ${admit}, narrows: ${narrows ? 'yes' : 'no'}${from ? `, from: ${from}` : ''}${until ? `, until: ${until}` : ''} }`,
      )
      .join(', ')} }`,
    HEAD,
  );

const VISITORS = [GUEST, someone(), someone({ roles: ['a'] }), someone({ roles: ['a', 'b'] })];
const told = ({ outcome, status, location, page }: decisions.Decision): unknown => [
  outcome,
  status,
  location,
  page,
];

test('a gate outside its dates changes nothing: the site decides as if it were not there', () => {
  fc.assert(
    fc.property(fc.array(gateArbitrary.filter(isRight), { minLength: 1, maxLength: 5 }), (some) => {
      const gates = some.map((gate, i) => ({ ...gate, name: `g${i}` }));
      const all = siteWith(gates);
      const without = siteWith(gates.filter(isNow));
      for (const visitor of VISITORS) {
        for (const method of ['GET', 'POST']) {
          for (const address of ['/', '/s', '/s/p', '/s/p/q', '/s/none']) {
            const request = { method, address };
            expectEqual(
              told(decisions.decide(all, request, visitor, NOW)),
              told(decisions.decide(without, request, visitor, NOW)),
            );
          }
        }
      }
    }),
    { numRuns: 250 },
  );
});
