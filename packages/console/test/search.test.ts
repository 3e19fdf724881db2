import { search, targetsOf } from '../src/search/targets.ts';

const targets = targetsOf(
  {
    pages: { '/': 'Home', '/crew': { title: 'Crew room' } },
    gates: { 'crew-room': { under: '/crew' } },
    redirects: [{ from: '/team', to: '/crew' }, 'not an entry'],
    roles: { warden: 'Warden' },
  },
  [{ message: 'Nobody reaches /crew.', line: 7 } as never],
);
const found = (text: string) =>
  [...search(targets, text)].flatMap(([group, of]) => of.map(({ title }) => `${group}: ${title}`));

test('what has all words is found, by group, whatever their order and case', () => {
  expect(found('ROOM crew')).toEqual(['Pages: /crew Crew room', 'Gates: crew-room']);
  expect(found('team')).toEqual(['Redirects: /team → /crew']);
  expect(found('nobody reaches')).toEqual(['Findings: Nobody reaches /crew.']);
  expect(found('no such thing')).toEqual([]);
});

test('an address can be tried, also where no page has it', () => {
  expect([...search(targets, '/no such').values()].flat()).toEqual([
    { group: 'Try an address', title: 'Try /no such', to: '/reach/address?address=%2Fno+such' },
  ]);
});

test('names are written so that the address has them whole', () => {
  const [only] = [...search(targetsOf({ visitors: { 'a&b c': {} } }, []), 'a&b').values()].flat();
  expect(only?.to).toBe('/visitors?name=a%26b+c');
});

test('of a long list the first are shown, and every page is offered', () => {
  const many = targetsOf(
    { pages: Object.fromEntries(Array.from({ length: 50 }, (_, i) => [`/p${i}`, 'P'])) },
    [],
  );
  expect(search(many, '/p').get('Pages')).toHaveLength(8);
  expect(
    search(many, '')
      .get('Commands')!
      .map(({ title }) => title),
  ).toContain('New gate');
});
