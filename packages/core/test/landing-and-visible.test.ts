import { decisions } from '../src/index.ts';
import { errorsOf, GUEST, NOW, sampleSite, siteOf, someone } from './support.ts';

describe('landings', () => {
  const prepared = siteOf(`
roles: { warden: x, member: x }
pages: { /: Home, /sign-in: In, /rota: Rota, /members: Members, /crew: Crew, /bye: Bye }
gates: { crew: { under: /crew, admit: role warden }, members: { at: /members, admit: signed-in } }
landings:
  - { after: sign-in, who: anyone, go: /members, return-first: yes }
  - { after: sign-in, who: role warden, go: /rota }
  - { after: sign-out, go: /bye }`);
  const land = (after: 'sign-in' | 'sign-out', visitor = someone(), from: string | null = null) => {
    const { address, visit } = decisions.landing(prepared, after, visitor, from, NOW);
    return [address, visit.outcome];
  };
  const warden = someone({ roles: ['warden'] });

  test('one that is for some comes before one that is for anyone, whatever their order', () => {
    expect(land('sign-in', warden)).toEqual(['/rota', 'reach']);
    expect(land('sign-in')).toEqual(['/members', 'reach']);
  });

  test('the page first asked for comes first where that is wanted, and reached', () => {
    expect(land('sign-in', someone(), '/rota?week=2')).toEqual(['/rota?week=2', 'reach']);
    expect(land('sign-in', warden, '/crew')).toEqual(['/rota', 'reach']);
    expect(land('sign-in', someone(), '/crew')).toEqual(['/members', 'reach']);
    expect(land('sign-in', someone(), '/nothing')).toEqual(['/members', 'reach']);
  });

  test.each([
    '//evil.example',
    'https://evil.example/',
    '/\\evil.example',
    'javascript:alert(1)',
    '/%2f%2fevil.example',
    '',
  ])('nobody is sent to %j', (from) => {
    expect(land('sign-in', someone(), from)).toEqual(['/members', 'reach']);
  });

  test('whoever signs out arrives as a guest', () => {
    expect(land('sign-out', warden)).toEqual(['/bye', 'reach']);
    const closed = siteOf(
      'pages: { /a: A, /sign-in: S }\ngates: { a: { at: /a, admit: signed-in } }\nlandings: [{ after: sign-out, go: /a }]',
    );
    expect(decisions.landing(closed, 'sign-out', warden, null, NOW).visit.outcome).toBe('sign-in');
  });

  test('without a rule they go back, or home', () => {
    const plain = siteOf('pages: { /: Home, /a: A }');
    expect(decisions.landing(plain, 'sign-in', someone(), '/a', NOW).address).toBe('/a');
    expect(decisions.landing(plain, 'sign-in', someone(), '/none', NOW)).toMatchObject({
      address: '/',
      place: null,
    });
  });

  test('a landing elsewhere is an error', () => {
    expect(
      errorsOf('landings: [{ after: sign-in, go: https://x.example/ }]').map(({ code }) => code),
    ).toEqual(['address']);
  });
});

describe('what is shown', () => {
  test('parts by their rule, links by where they lead', () => {
    const prepared = siteOf(`
roles: { crew: x }
pages: { /: Home, /sign-in: S, /crew: Crew, /tides: { leads-to: https://tides.example/ } }
gates: { crew: { under: /crew, admit: role crew } }
redirects: [{ from: /old, to: / }]
parts: { photos: { admit: signed-in }, notice: { admit: guest } }`);
    const links = ['/', '/crew', '/crew/x', '/none', '/tides', '/old', '/%'];
    const shown = (visitor = GUEST) => {
      const { parts, links: all } = decisions.visibleTo(prepared, visitor, links, NOW);
      return [
        ...parts.filter((one) => one.visible).map(({ name }) => name),
        ...all.filter((one) => one.visible).map(({ address }) => address),
      ];
    };
    expect(shown()).toEqual(['notice', '/', '/tides', '/old']);
    expect(shown(someone({ roles: ['crew'] }))).toEqual(['photos', '/', '/crew', '/tides', '/old']);
  });

  test('agrees with the grid on the sample site', () => {
    const sample = sampleSite();
    const { rows } = decisions.grid(sample, sample.site.visitors, NOW);
    const links = rows.map(({ visited }) => visited);
    for (const visitor of sample.site.visitors) {
      const shown = decisions
        .visibleTo(sample, visitor, links, NOW)
        .links.map((one) => one.visible);
      const expected = rows.map(({ cells }) => {
        const { outcome, fullAccess } = cells[visitor.name]!;
        return ['reach', 'away'].includes(outcome) && !fullAccess;
      });
      expect(shown).toEqual(expected);
    }
  });
});
