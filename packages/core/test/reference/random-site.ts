import type {
  Condition,
  File,
  GateEntry,
  PageEntry,
  Person,
  RedirectEntry,
  RewriteEntry,
} from './model.ts';

/** Numbers that look random, and are the same each time. */
export function randomBy(seed: number): () => number {
  let state = seed >>> 0;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let mixed = Math.imul(state ^ (state >>> 15), state | 1);
    mixed ^= mixed + Math.imul(mixed ^ (mixed >>> 7), mixed | 61);
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 2 ** 32;
  };
}

/** Sites, visitors and addresses, by chance; few names, so that rules meet. */
export function chance(random: () => number) {
  const one = <T>(...of: readonly T[]): T => of[Math.floor(random() * of.length)]!;
  const is = (share: number): boolean => random() < share;
  const some = <T>(most: number, make: () => T): T[] =>
    Array.from({ length: Math.floor(random() * (most + 1)) }, make);
  const segment = (): string =>
    is(0.15)
      ? one('a_b', '-a', '~b', "c'", 'a,b', 'c@1', 'b=2', '1.5')
      : one('a', 'b', 'c', 'x-a', 'x-b', 'old');
  const path = (depth = 3): string => `/${some(depth, segment).join('/')}`;
  const pattern = (): string =>
    one(
      path,
      () => `/${segment()}/:p`,
      () => '/:p',
      () => `/:p/${segment()}`,
      () => '/x-:p',
      () => `/${segment()}/x-:p`,
      () => '/x-*',
      () => `/${segment()}/*`,
      () => '/*',
    )();
  const pieceIn = (text: string): string | null => (text.includes(':p') ? 'p' : null);
  const condition = (pieces: string | null = null, depth = 0): Condition => {
    if (depth < 2 && is(0.25))
      return {
        is: one('and', 'or'),
        of: [condition(pieces, depth + 1), condition(pieces, depth + 1)],
      };
    if (depth < 2 && is(0.15)) return { is: 'not', of: condition(pieces, depth + 1) };
    return one<() => Condition>(
      () => ({ is: one('anyone', 'nobody', 'guest', 'signed-in') }),
      () => ({ is: 'role', name: one('r', 's') }),
      () => ({ is: 'bought', product: one('m', 'n') }),
      () => ({ is: 'query', field: one('q', 'k'), value: one('1', '2') }),
      () => ({ is: 'tag', value: one('t', 'u'), not: is(0.5) }),
      () =>
        pieces === null
          ? { is: 'signed-in' }
          : one<Condition>(
              { is: 'path', piece: pieces, value: one('a', 'b') },
              { is: 'self', piece: pieces },
            ),
    )();
  };
  const date = (): string => one('2026-01-01T00:00:00Z', '2027-01-01T00:00:00Z');
  const maybe = <T extends object>(share: number, make: () => T): Partial<T> =>
    is(share) ? make() : {};

  const page = (address: string): PageEntry => ({
    title: 'T',
    ...maybe(0.1, () => ({ from: date() })),
    ...maybe(0.1, () => ({ until: date() })),
    ...maybe(0.08, () => ({ draft: 'yes' as const })),
    ...maybe(0.25, () => ({ listed: 'no' as const })),
    ...maybe(0.1, () => ({ 'leads-to': one(path(), 'https://far.example/x') })),
    ...maybe(0.15, () => ({ 'missing-unless': condition(pieceIn(address)) })),
    ...(address.includes(':') || address.includes('*')
      ? { example: address.replace(/:p|\*/g, is(0.1) ? 'b' : 'a') }
      : {}),
  });
  const gate = (): GateEntry => {
    const extents = {
      under: some(2, () => one(path(2), '/', `/${segment()}`, '/:p')),
      at: some(2, pattern),
    };
    const all = [...extents.under, ...extents.at];
    const pieces = all.length > 0 && all.every((text) => text.includes(':p')) ? 'p' : null;
    return {
      ...(extents.under.length > 0 ? { under: extents.under } : {}),
      ...(extents.at.length > 0 ? { at: extents.at } : all.length === 0 ? { at: [path()] } : {}),
      admit: condition(pieces),
      ...maybe(0.25, () => ({ right: 'change' as const })),
      ...maybe(0.25, () => ({ narrows: 'yes' as const })),
      ...maybe(0.15, () => ({ 'full-access': 'no' as const })),
      ...maybe(0.1, () => ({ from: date() })),
      ...maybe(0.1, () => ({ until: date() })),
      ...maybe(0.1, () => ({ rank: one(1, 2) })),
      ...maybe(0.5, () => ({
        otherwise: some(2, () => {
          const how = one<'sign-in' | 'refuse' | 'send' | 'offer' | 'hide'>(
            'sign-in',
            'refuse',
            'send',
            'offer',
            'hide',
          );
          return {
            ...maybe(0.6, () => ({ who: condition(pieces) })),
            do: how,
            ...(how === 'send'
              ? { to: is(0.1) ? `https://t.example${path()}` : path() }
              : how === 'refuse' && is(0.3)
                ? { show: path() }
                : {}),
          };
        }),
      })),
    };
  };
  const redirect = (): RedirectEntry => {
    const from = one(
      pattern,
      pattern,
      pattern,
      () => `https://${one('old.example', 'www.t.example')}${path(2)}`,
    )();
    const asked = is(0.3) ? one('?q=1', '?q=*', '?q=:v', '?q=:v&k=1', '?k=2') : '';
    const to = one(
      path(),
      from.includes('*') ? '/b/*' : path(),
      from.includes(':p') ? '/c/:p' : path(),
      asked.includes(':v') ? '/a/:v' : path(),
    );
    return {
      from: from + asked,
      to: is(0.1) ? 'https://far.example/y' : is(0.2) ? `${to}?z=1` : to,
      ...maybe(0.5, () => ({ kind: 'permanent' as const })),
      ...maybe(0.3, () => ({ query: 'keep' as const })),
      ...maybe(0.3, () => ({ when: condition(pieceIn(from)) })),
      ...maybe(0.1, () => ({ since: date() })),
      ...maybe(0.1, () => ({ until: date() })),
      ...maybe(0.3, () => ({ 'unless-page': 'yes' as const })),
      ...maybe(0.1, () => ({ rank: 1 })),
    };
  };

  const canonicalRewrite = (from: string, plain: string): Partial<RewriteEntry> => ({
    serve: from.includes(':p')
      ? one('/a?q=:p', '/b/:p', '/:p/c', '/a?k=:p&q=1')
      : one(plain, '/b?q=1'),
    canonical: 'yes',
  });

  const site = (): File => {
    const pages: Record<string, PageEntry> = {};
    for (const address of ['/', '/in', ...some(8, pattern)]) pages[address] ??= page(address);
    const plain = Object.keys(pages).filter((one) => !/[:*]/.test(one));
    for (const address of is(0.3) ? [one('/terms', '/a/privacy', '/sign-up', '/b/x.css')] : [])
      pages[address] = page(address);
    if (is(0.4)) pages[one(...plain)]!.aliases = ['/alias', '/c/alias'];
    return {
      site: {
        address: 'https://t.example',
        ...maybe(0.4, () => ({ also: ['www.t.example'] })),
        ...maybe(0.3, () => ({ ungated: 'closed' as const })),
        ...maybe(0.3, () => ({ undeclared: 'website' as const })),
        ...maybe(0.3, () => ({ change: 'gated-only' as const })),
        ...maybe(0.7, () => ({ 'sign-in': '/in' })),
        ...maybe(0.4, () => ({
          'full-access': is(0.8) ? { is: 'role' as const, name: 's' } : condition(),
        })),
        ...maybe(0.2, () => ({ 'full-access-right': 'view' as const })),
        ...maybe(0.5, () => ({
          tidy: {
            ...maybe(0.3, () => ({ case: 'keep' as const })),
            ...maybe(0.5, () => ({
              'final-slash': one('drop' as const, 'add' as const, 'keep' as const),
            })),
            ...maybe(0.5, () => ({ endings: ['.html'] })),
            ...maybe(0.5, () => ({ index: ['index', '/home'] })),
          },
        })),
      },
      products: {
        m: { title: 'M', 'buy-at': '/a' },
        n: is(0.7) ? { title: 'N', 'buy-at': '/b' } : { title: 'N' },
      },
      pages,
      gates: Object.fromEntries(some(6, gate).map((entry, i) => [`g${i}`, entry])),
      redirects: some(5, redirect),
      rewrites: some(2, () => {
        const from = one(
          () => `/${segment()}/:p`,
          path,
          () => '/:p',
        )();
        return {
          from,
          serve: from.includes(':p') ? one('/a?n=:p', '/b/:p', '/c') : one('/a', '/b?q=1'),
          ...(is(0.5) ? canonicalRewrite(from, path()) : {}),
          ...maybe(0.3, () => ({ when: condition(pieceIn(from)) })),
          ...maybe(0.3, () => ({ 'unless-page': 'yes' as const })),
        };
      }),
      'not-found': some(2, () => ({
        under: one('/', '/a', '/b', '/:p/a'),
        say: 'No',
        ...maybe(0.4, () => ({ status: 410 as const })),
      })),
      landings: some(3, () => ({
        after: one('sign-in' as const, 'sign-out' as const),
        ...maybe(0.6, () => ({ who: condition() })),
        go: path(),
        ...maybe(0.3, () => ({ rank: 1 })),
        ...maybe(0.4, () => ({ 'return-first': 'yes' as const })),
      })),
      parts: Object.fromEntries(some(3, condition).map((admit, i) => [`p${i}`, { admit }])),
      menus: Object.fromEntries(
        some(2, () => ({
          links: [one(path(), ...plain), one(path(), 'https://far.example/y')],
          ...maybe(0.7, () => ({ shows: one('usable' as const, 'everything' as const) })),
          ...maybe(0.3, () => ({ on: [path(1)] })),
        })).map((menu, i) => [`m${i}`, menu]),
      ),
    };
  };
  const person = (): Person =>
    is(0.3)
      ? { guest: true, roles: [], bought: [], tags: [] }
      : {
          guest: false,
          ...maybe(0.3, () => ({ id: one('a', 'b') })),
          roles: some(2, () => one('r', 's')),
          bought: some(1, () => one('m', 'n')),
          tags: some(2, () => one('t', 'u', 'v')),
        };
  const address = (): string => {
    const spelled = one(
      path(),
      path(),
      `/x-${segment()}`,
      '/alias',
      '/c/alias',
      '/home',
      '/in',
      `${path()}/index`,
      `${path()}/a.html`,
    ).replace(/\/{2,}/g, '/');
    const slashed = is(0.1) ? `${spelled}/`.replace('//', '/') : spelled;
    const cased = is(0.1) ? slashed.toUpperCase() : slashed;
    const query = is(0.4) ? `?${one('q=1', 'q=2', 'k=2', 'q=1&k=1', 'k=1&q=2', 'y=7')}` : '';
    const host = is(0.1)
      ? `https://${one('www.t.example', 'old.example', 't.example', 'none.example')}`
      : '';
    return host + cased + query;
  };
  const method = (): string => one('GET', 'GET', 'GET', 'HEAD', 'POST', 'DELETE');
  return { site, person, address, method, is };
}

/** A condition as a site file has it. */
export function printed(condition: Condition): string {
  switch (condition.is) {
    case 'role':
      return `role ${condition.name}`;
    case 'bought':
      return `bought ${condition.product}`;
    case 'query':
      return `query.${condition.field} = "${condition.value}"`;
    case 'path':
      return `path.${condition.piece} = "${condition.value}"`;
    case 'self':
      return `visitor.id = path.${condition.piece}`;
    case 'tag':
      return `visitor.tags ${condition.not ? '!=' : '='} "${condition.value}"`;
    case 'not':
      return `not (${printed(condition.of)})`;
    case 'and':
    case 'or':
      return condition.of.map((one) => `(${printed(one)})`).join(` ${condition.is} `);
    default:
      return condition.is;
  }
}
