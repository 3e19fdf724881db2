/**
 * A second model of what a site decides, written from docs/ alone: it scans all rules for each request, and
 * shares no code with core. Slow and plain on purpose. It reads site files of the shapes that `random-site.ts`
 * makes: plain characters in addresses, and the kinds of patterns named there.
 */

/** A site file as plain values. */
export interface File {
  readonly site: {
    address: string;
    also?: string[];
    ungated?: 'open' | 'closed';
    undeclared?: 'missing' | 'website';
    change?: 'as-view' | 'gated-only';
    'sign-in'?: string;
    'full-access'?: Condition;
    'full-access-right'?: 'view' | 'change';
    tidy?: {
      case?: 'lower' | 'keep';
      'final-slash'?: 'drop' | 'add' | 'keep';
      endings?: string[];
      index?: string[];
    };
  };
  readonly products: Record<string, { title: string; 'buy-at'?: string }>;
  readonly pages: Record<string, PageEntry>;
  readonly gates: Record<string, GateEntry>;
  readonly redirects: RedirectEntry[];
  readonly rewrites: RewriteEntry[];
  readonly 'not-found': { under: string; say: string; status?: 404 | 410 }[];
  readonly landings: LandingEntry[];
  readonly parts: Record<string, { admit: Condition }>;
  readonly menus: Record<
    string,
    { links: string[]; shows?: 'usable' | 'everything'; on?: string[] }
  >;
}
export interface PageEntry {
  title: string;
  from?: string;
  until?: string;
  draft?: 'yes';
  'leads-to'?: string;
  'missing-unless'?: Condition;
  aliases?: string[];
  example?: string;
  listed?: 'no';
}
export interface GateEntry {
  under?: string[];
  at?: string[];
  admit: Condition;
  right?: 'view' | 'change';
  narrows?: 'yes';
  'full-access'?: 'no';
  from?: string;
  until?: string;
  rank?: number;
  otherwise?: {
    who?: Condition;
    do: 'sign-in' | 'refuse' | 'send' | 'offer' | 'hide';
    to?: string;
    show?: string;
  }[];
}
export interface RedirectEntry {
  from: string;
  to: string;
  kind?: 'permanent' | 'temporary';
  query?: 'keep' | 'drop';
  when?: Condition;
  since?: string;
  until?: string;
  'unless-page'?: 'yes';
  rank?: number;
  /** The canonical rewrite that this redirect leads back to. */
  readableOf?: RewriteEntry;
}
export interface RewriteEntry {
  from: string;
  serve: string;
  canonical?: 'yes';
  when?: Condition;
  'unless-page'?: 'yes';
}
export interface LandingEntry {
  after: 'sign-in' | 'sign-out';
  who?: Condition;
  go: string;
  rank?: number;
  'return-first'?: 'yes';
}

export type Condition =
  | { is: 'anyone' | 'nobody' | 'guest' | 'signed-in' }
  | { is: 'role'; name: string }
  | { is: 'bought'; product: string }
  | { is: 'query'; field: string; value: string }
  | { is: 'path'; piece: string; value: string }
  /** The visitor's id is a piece of the path. */
  | { is: 'self'; piece: string }
  | { is: 'tag'; value: string; not: boolean }
  | { is: 'not'; of: Condition }
  | { is: 'and' | 'or'; of: [Condition, Condition] };

export interface Person {
  guest: boolean;
  /** Signed-in visitors without one are `sam`. */
  id?: string;
  roles: string[];
  bought: string[];
  tags: string[];
}

export interface End {
  outcome: string;
  status: number;
  final: string;
  fullAccess: boolean;
  locations: (string | null)[];
}

interface Answer {
  outcome: string;
  status: number;
  location: string | null;
  fullAccess: boolean;
}

interface Asked {
  path: string;
  query: string;
}

type Pieces = Record<string, string>;

/** A gate at an address. */
export interface GateThere {
  name: string;
  gate: GateEntry;
  pieces: Pieces;
  key: number[];
}

export class Model {
  private readonly home: string;
  private readonly host: string;
  constructor(
    private readonly file: File,
    private readonly now: number,
  ) {
    this.home = file.site.address;
    this.host = file.site.address.replace('https://', '');
  }

  visit(address: string, person: Person, method: string): End {
    const locations: (string | null)[] = [];
    const seen = new Set<string>();
    let turned: string | null = null;
    let fullAccess = false;
    let [at, how] = [address, method];
    for (;;) {
      const answer = this.decide(at, person, how);
      fullAccess ||= answer.fullAccess;
      locations.push(answer.location);
      if (answer.outcome === 'sign-in' || answer.outcome === 'block') turned = answer.outcome;
      if (answer.location === null || answer.outcome === 'away')
        return {
          outcome: turned ?? answer.outcome,
          status: answer.status,
          final: answer.location ?? this.printed(at),
          fullAccess,
          locations,
        };
      seen.add(`${how} ${this.printed(at)}`);
      if (answer.status === 303 && how !== 'HEAD') how = 'GET';
      // Browsers escape this sign in a query (URL Standard).
      at = this.printed(answer.location.replace(/#.*/, '')).replace(/(?<=\?.*)'/g, '%27');
      if (seen.has(`${how} ${at}`) || locations.length > 20)
        return { outcome: 'loop', status: answer.status, final: at, fullAccess, locations };
    }
  }

  land(after: 'sign-in' | 'sign-out', person: Person, from: string | null): string {
    const fitting = this.file.landings.filter(
      (one) => one.after === after && this.holds(one.who, person, {}, ''),
    );
    const isForSome = (one: LandingEntry): boolean =>
      one.who !== undefined && one.who.is !== 'anyone';
    const best = Math.max(...fitting.filter(isForSome).map((one) => one.rank ?? 0));
    const some = fitting.filter((one) => isForSome(one) && (one.rank ?? 0) === best);
    const rest = Math.max(...fitting.map((one) => one.rank ?? 0));
    const chosen = some.length > 0 ? some : fitting.filter((one) => (one.rank ?? 0) === rest);
    if (chosen.length > 1) return '?';
    const [rule] = chosen;
    const isBack = from !== null && (rule === undefined || rule['return-first'] === 'yes');
    const arriving =
      after === 'sign-out' ? { guest: true, roles: [], bought: [], tags: [] } : person;
    if (isBack && this.visit(from, arriving, 'GET').outcome === 'reach') return from;
    return rule?.go ?? '/';
  }

  /** The parts that someone sees, and the links in each menu. */
  seen(person: Person): { parts: string[]; menus: string[][] } {
    const leads = (link: string): boolean => {
      const { outcome, fullAccess } = this.visit(link, person, 'GET');
      return ['reach', 'away'].includes(outcome) && !fullAccess;
    };
    return {
      parts: Object.entries(this.file.parts)
        .filter(([, { admit }]) => this.holds(admit, person, {}, ''))
        .map(([name]) => name),
      menus: Object.values(this.file.menus).map(({ links, shows }) =>
        links.filter((link) => shows !== 'usable' || leads(link)),
      ),
    };
  }

  /** Addresses of the site as a visit prints them: without its own host. */
  private printed(address: string): string {
    return address.startsWith(`${this.home}/`) ? address.slice(this.home.length) : address;
  }

  private decide(address: string, person: Person, method: string): Answer {
    const absolute = /^https:\/\/([^/]+)(.*)$/.exec(address);
    const host = absolute ? absolute[1]! : this.host;
    const [sent = '/', query = ''] = (absolute ? absolute[2]! : address).split('?');
    const asked: Asked = { path: this.form(sent), query };
    const isView = method === 'GET' || method === 'HEAD';
    const end = (outcome: string, status: number, location: string | null = null): Answer => ({
      outcome,
      status,
      location,
      fullAccess: on.fullAccess,
    });
    const on = { fullAccess: false };
    const { also = [] } = this.file.site;
    const hosts = new Set([
      this.host,
      ...also,
      ...this.file.redirects.flatMap(({ from }) => hostOf(from) ?? []),
    ]);
    if (!hosts.has(host)) return end('invalid', 421);

    const redirect = this.redirectAt(host, asked, person, isView, on);
    if (redirect) return redirect;
    if (also.includes(host)) {
      const hop = this.oneHop(asked, sent, person, isView);
      return end('redirect', hop.looked ? 307 : 308, this.home + hop.path + withMark(query));
    }
    if (host !== this.host) return end('missing', 404);

    const isHiddenAlias = this.isHiddenAlias(asked, person, isView);
    const alias = isHiddenAlias ? null : this.primaryOf(asked.path);
    const primary = alias ?? asked.path;
    const tidy = this.slashed(primary, alias === null ? sent : primary);
    if (tidy !== sent) {
      const looked = alias !== null && this.hidesFromSome([asked.path, primary]);
      const permanent = !looked;
      const status = isView ? (permanent ? 301 : 302) : permanent ? 308 : 307;
      return end('redirect', status, tidy + withMark(query));
    }

    const rewrite = this.rewriteAt(asked, person, isView);
    const served =
      rewrite === null
        ? null
        : readServed(rewrite.rule.serve, rewrite.pieces, query, (path) => this.form(path));
    for (const one of served ? [asked, served] : [asked]) {
      const turned = this.gateAt(one, asked, sent, person, method, on);
      if (turned) return { ...turned, fullAccess: on.fullAccess };
    }
    if (isHiddenAlias && served === null) return end('missing', this.notFoundAt(asked.path));
    const here = this.pageAt(asked, person, on);
    const there = served && here?.exists !== false ? this.pageAt(served, person, on) : null;
    const missing = end('missing', this.notFoundAt(asked.path));
    if (here?.exists === false || there?.exists === false) return missing;
    const none = this.file.site.undeclared === 'website' ? end('reach', 200) : missing;
    const isByWebsite = served !== null && here !== null && none.outcome === 'reach';
    if (!isByWebsite && (served ? there === null : here === null))
      return { ...none, fullAccess: on.fullAccess };
    const page = (here ?? there)!.entry;
    const leads = page['leads-to'];
    if (leads === undefined) return end('reach', 200);
    const isAway = leads.startsWith('https://') && !hosts.has(leads.slice(8).split('/')[0]!);
    return end(isAway ? 'away' : 'redirect', isView ? 302 : 307, leads);
  }

  private redirectAt(
    host: string,
    asked: Asked,
    person: Person,
    isView: boolean,
    on: { fullAccess: boolean },
  ): Answer | null {
    const sorted = this.redirectsAt(host, asked);
    let looked = false;
    for (const { rule, wanted, pieces } of sorted) {
      const tried = this.tryRedirect(rule, pieces, host, asked, person, isView);
      looked ||= tried.looked;
      if (tried.skipped === 'hidden')
        return {
          outcome: 'missing',
          status: this.notFoundAt(asked.path),
          location: null,
          fullAccess: on.fullAccess,
        };
      if (tried.skipped !== null) continue;
      const kept = rule.query === 'keep' ? withoutFields(asked.query, wanted) : '';
      const [path = '', ownQuery = ''] = fill(rule.to, pieces).split('?');
      const targetQuery = [ownQuery, kept].filter(Boolean).join('&');
      const hop = this.oneHop({ path: this.form(path), query: targetQuery }, path, person, isView);
      if (path.startsWith('/')) looked ||= hop.looked;
      const target = path.startsWith('/') ? hop.path : path;
      if (path.startsWith('/') && this.primaryOf(this.form(path)) !== null && target !== path)
        looked ||= this.hidesFromSome([this.form(path), target]);
      const location = target + withMark(targetQuery);
      const isForSome = rule.when !== undefined && rule.when.is !== 'anyone';
      const permanent = rule.kind === 'permanent' && !isForSome && !looked;
      const status = isView ? (permanent ? 301 : 302) : permanent ? 308 : 307;
      const whole =
        location.startsWith('/') && host !== this.host ? this.home + location : location;
      const isAway = whole.startsWith('https://') && !this.isOurs(whole);
      return {
        outcome: isAway ? 'away' : 'redirect',
        status,
        location: whole,
        fullAccess: on.fullAccess,
      };
    }
    return null;
  }

  /** The redirects that match, the most specific first. */
  private redirectsAt(
    host: string,
    asked: Asked,
  ): { rule: RedirectEntry; wanted: string; pieces: Pieces }[] {
    const back = this.file.rewrites
      .filter(({ canonical }) => canonical === 'yes')
      .map((rewrite): RedirectEntry => {
        const { from, serve, when } = rewrite;
        const rule = { from: serve, to: from, kind: 'permanent', query: 'keep' } as const;
        return { ...rule, ...(when ? { when } : {}), readableOf: rewrite };
      });
    const matches = [...this.file.redirects, ...back].flatMap((rule) => {
      const from = hostOf(rule.from);
      if ((from ?? this.host) !== host) return [];
      const [pattern = '', wanted = ''] = (
        from === null ? rule.from : rule.from.slice(8 + from.length)
      ).split('?');
      const pieces = match(pattern, asked.path);
      const queryPieces = pieces && matchQuery(wanted, asked.query);
      if (!pieces || !queryPieces) return [];
      return [{ rule, pattern, wanted, pieces: { ...pieces, ...queryPieces } }];
    });
    return matches.sort(
      (a, b) =>
        compare(orderOf(a.rule), orderOf(b.rule)) ||
        (`${a.rule.from} → ${a.rule.to}` < `${b.rule.from} → ${b.rule.to}` ? -1 : 1),
    );
  }

  private isOurs(address: string): boolean {
    const host = address.slice(8).split(/[/?]/)[0]!;
    return (
      host === this.host ||
      (this.file.site.also ?? []).includes(host) ||
      this.file.redirects.some(({ from }) => hostOf(from) === host)
    );
  }

  private rewriteAt(
    asked: Asked,
    person: Person,
    isView: boolean,
  ): { rule: RewriteEntry; pieces: Pieces } | null {
    const matches = this.file.rewrites.flatMap((rule) => {
      const pieces = match(rule.from, asked.path);
      return pieces ? [{ rule, pieces }] : [];
    });
    matches.sort(
      (a, b) =>
        compare(rewriteOrder(a.rule), rewriteOrder(b.rule)) ||
        (`${a.rule.from} → ${a.rule.serve}` < `${b.rule.from} → ${b.rule.serve}` ? -1 : 1),
    );
    return (
      matches.find(({ rule, pieces }) => {
        if (rule.when !== undefined && !this.holds(rule.when, person, pieces, asked.query))
          return false;
        if (rule['unless-page'] !== 'yes') return true;
        const page = this.pageAt(asked, person, { fullAccess: false });
        const isItself =
          page !== null && rule.from.includes(':') && sameForm(page.address, rule.from);
        return !page?.exists || isItself || this.isHidden(asked, person, isView);
      }) ?? null
    );
  }

  private gateAt(
    one: Asked,
    asked: Asked,
    sent: string,
    person: Person,
    method: string,
    on: { fullAccess: boolean },
  ): Omit<Answer, 'fullAccess'> | null {
    const isView = method === 'GET' || method === 'HEAD';
    const { site } = this.file;
    const mayAll = (gate?: GateEntry): boolean =>
      site['full-access'] !== undefined &&
      gate?.['full-access'] !== 'no' &&
      (isView || site['full-access-right'] !== 'view') &&
      this.holds(site['full-access'], person, {}, asked.query);
    const returningFrom = (page: string): string => {
      const back = sent.replace(/\/{2,}/g, '/') + withMark(asked.query);
      const isItself = this.form(page) === asked.path;
      return isItself ? back : `${page}?return=${encodeURIComponent(back)}`;
    };
    const signIn = (): Omit<Answer, 'fullAccess'> => ({
      outcome: 'sign-in',
      status: 303,
      location: returningFrom(site['sign-in']!),
    });
    const refuse = { outcome: 'block', status: 403, location: null };
    let gates = isView ? [] : this.gatesAt(one.path, 'change');
    if (!isView && gates.length === 0 && site.change === 'gated-only') {
      if (!mayAll()) return person.guest && site['sign-in'] !== undefined ? signIn() : refuse;
      on.fullAccess = true;
    }
    if (gates.length === 0) gates = this.gatesAt(one.path, 'view');
    if (gates.length === 0) {
      if (site.ungated !== 'closed' || !person.guest) return null;
      return site['sign-in'] === undefined ? refuse : signIn();
    }
    const chain = [gates[0]!];
    for (const next of gates.slice(1)) {
      if (chain.at(-1)!.gate.narrows !== 'yes') break;
      chain.push(next);
    }
    for (const { gate, pieces } of chain.reverse()) {
      if (this.holds(gate.admit, person, pieces, one.query)) continue;
      if (mayAll(gate)) {
        on.fullAccess = true;
        continue;
      }
      const step = (gate.otherwise ?? []).find(({ who }) =>
        this.holds(who, person, pieces, one.query),
      );
      const isChange = (gate.right ?? 'view') === 'change';
      const isWithin = gates.some((outer) =>
        this.hidesSection(outer, gate, person, one.query, mayAll),
      );
      const isHidden = (isChange && this.isHidden(one, person, true)) || (!step && isWithin);
      switch (isHidden ? 'hide' : (step?.do ?? (person.guest ? 'sign-in' : 'refuse'))) {
        case 'sign-in':
          return site['sign-in'] === undefined ? refuse : signIn();
        case 'send':
          return { outcome: 'block', status: 303, location: step!.to! };
        case 'hide':
          return { outcome: 'missing', status: this.notFoundAt(asked.path), location: null };
        case 'offer': {
          const signedIn = { ...person, guest: false };
          if (
            person.guest &&
            site['sign-in'] !== undefined &&
            this.holds(gate.admit, signedIn, pieces, one.query)
          )
            return signIn();
          const sold = Object.entries(this.file.products).filter(
            ([, product]) => product['buy-at'] !== undefined,
          );
          const sets = subsets(sold.map(([name]) => name)).filter((set) =>
            this.holds(
              gate.admit,
              { ...person, guest: false, bought: [...person.bought, ...set] },
              pieces,
              one.query,
            ),
          );
          const named = new Set(productsIn(gate.admit));
          const smallest = sets.filter(
            (set) =>
              set.length > 0 &&
              set.every((name) => named.has(name)) &&
              !sets.some(
                (other) =>
                  other.length > 0 &&
                  other.length < set.length &&
                  other.every((name) => set.includes(name)),
              ),
          );
          const [only] = smallest;
          return smallest.length === 1 && only!.length === 1
            ? {
                outcome: 'block',
                status: 303,
                location: returningFrom(this.file.products[only![0]!]!['buy-at']!),
              }
            : refuse;
        }
        default:
          return refuse;
      }
    }
    return null;
  }

  /** Whether a gate around another one hides its section from a person. */
  private hidesSection(
    { gate, pieces }: { gate: GateEntry; pieces: Pieces },
    inner: GateEntry,
    person: Person,
    query: string,
    mayAll: (gate: GateEntry) => boolean,
  ): boolean {
    if (gate === inner || this.holds(gate.admit, person, pieces, query) || mayAll(gate))
      return false;
    const step = (gate.otherwise ?? []).find(({ who }) => this.holds(who, person, pieces, query));
    return step?.do === 'hide';
  }

  /** Whether a path is another address of a page that is hidden from a person, or is hidden itself. */
  private isHiddenAlias(asked: Asked, person: Person, isView: boolean): boolean {
    const primary = this.primaryOf(asked.path);
    return (
      primary !== null &&
      [primary, asked.path].some((path) =>
        this.isHidden({ path, query: asked.query }, person, isView),
      )
    );
  }

  gatesAt(path: string, right: string): GateThere[] {
    return Object.entries(this.file.gates)
      .flatMap(([name, gate]) => {
        if ((gate.right ?? 'view') !== right) return [];
        if (gate.from !== undefined && this.now < Date.parse(gate.from)) return [];
        if (gate.until !== undefined && this.now >= Date.parse(gate.until)) return [];
        const found = [
          ...(gate.at ?? []).map((pattern) => ({
            pattern,
            under: 0,
            pieces: match(pattern, path),
          })),
          ...(gate.under ?? []).map((pattern) => ({
            pattern,
            under: 1,
            pieces: matchUnder(pattern, path),
          })),
        ].flatMap(({ pattern, under, pieces }) =>
          pieces
            ? [{ gate, name, pieces, key: [-(gate.rank ?? 0), ...shapeOf(pattern, under), under] }]
            : [],
        );
        return found.sort((a, b) => compare(a.key, b.key)).slice(0, 1);
      })
      .sort((a, b) => compare(a.key, b.key) || (a.name < b.name ? -1 : 1));
  }

  pageAt(
    { path, query }: Asked,
    person: Person,
    on: { fullAccess: boolean },
  ): { address: string; entry: PageEntry; exists: boolean } | null {
    const found = Object.entries(this.file.pages)
      .flatMap(([address, entry]) => {
        const pieces = match(/[:*]/.test(address) ? address : this.form(address), path);
        return pieces ? [{ address, entry, pieces }] : [];
      })
      .sort((a, b) => compare(shapeOf(a.address), shapeOf(b.address)));
    const [first] = found;
    if (!first) return null;
    const { entry, pieces } = first;
    const full = this.file.site['full-access'];
    const mayDraft = full !== undefined && this.holds(full, person, {}, query);

    const exists =
      (entry.draft !== 'yes' || mayDraft) &&
      this.isWithin(entry) &&
      (entry['missing-unless'] === undefined ||
        this.holds(entry['missing-unless'], person, pieces, query));
    // Who sees a draft does so by full access.
    if (exists && entry.draft === 'yes') on.fullAccess = true;
    return { address: first.address, entry, exists };
  }

  /** Whether gates hide one of these from some, and admit others. */
  private hidesFromSome(paths: readonly string[]): boolean {
    return paths.some((path) =>
      ['view', 'change'].some((right) => {
        const gates = this.gatesAt(path, right).map(({ gate }) => gate);
        const last = gates.findIndex(({ narrows }) => narrows !== 'yes');
        const chain = last === -1 ? gates : gates.slice(0, last + 1);
        return (
          gates.some(({ otherwise = [] }) => otherwise.some((step) => step.do === 'hide')) &&
          chain.some(({ admit }) => admit.is !== 'anyone')
        );
      }),
    );
  }

  isWithin({ from, until }: PageEntry): boolean {
    return (
      (from === undefined || this.now >= Date.parse(from)) &&
      (until === undefined || this.now < Date.parse(until))
    );
  }

  private isHidden(asked: Asked, person: Person, isView: boolean): boolean {
    const turned = this.gateAt(asked, asked, asked.path, person, isView ? 'GET' : 'POST', {
      fullAccess: false,
    });
    return turned?.outcome === 'missing';
  }

  private notFoundAt(path: string): number {
    const [first] = this.file['not-found']
      .flatMap((rule) => (matchUnder(rule.under, path) ? [rule] : []))
      .sort(
        (a, b) => compare(shapeOf(a.under, 1), shapeOf(b.under, 1)) || (a.under < b.under ? -1 : 1),
      );
    return first?.status ?? 404;
  }

  holds(condition: Condition | undefined, person: Person, pieces: Pieces, query: string): boolean {
    if (condition === undefined) return true;
    const again = (of: Condition): boolean => this.holds(of, person, pieces, query);
    switch (condition.is) {
      case 'anyone':
        return true;
      case 'nobody':
        return false;
      case 'guest':
        return person.guest;
      case 'signed-in':
        return !person.guest;
      case 'role':
        return !person.guest && person.roles.includes(condition.name);
      case 'bought':
        return !person.guest && person.bought.includes(condition.product);
      case 'query':
        return new URLSearchParams(query).get(condition.field) === condition.value;
      case 'path':
        return pieces[condition.piece] === condition.value;
      case 'self':
        return !person.guest && pieces[condition.piece] === (person.id ?? 'sam');
      case 'tag':
        if (person.guest || person.tags.length === 0) return false;
        return condition.not
          ? !person.tags.includes(condition.value)
          : person.tags.includes(condition.value);
      case 'not':
        return !again(condition.of);
      case 'and':
        return condition.of.every(again);
      case 'or':
        return condition.of.some(again);
    }
  }

  primaryOf(path: string): string | null {
    for (const [address, { aliases = [] }] of Object.entries(this.file.pages))
      if (aliases.some((alias) => this.form(alias) === path && this.form(address) !== path))
        return this.form(address);
    return null;
  }

  private oneHop(
    asked: Asked,
    sent: string,
    person: Person,
    isView: boolean,
  ): { path: string; looked: boolean } {
    const isHidden = this.isHiddenAlias(asked, person, isView);
    const primary = isHidden ? null : this.primaryOf(asked.path);
    if (primary === null) return { path: this.slashed(asked.path, sent), looked: false };
    let looked = false;
    const hasRedirect = this.redirectsAt(this.host, asked).some(({ rule, pieces }) => {
      const tried = this.tryRedirect(rule, pieces, this.host, asked, person, isView);
      looked ||= tried.looked;
      return tried.skipped === null || tried.skipped === 'not yet';
    });
    const path = hasRedirect ? this.slashed(asked.path, sent) : this.slashed(primary, primary);
    return { path, looked };
  }

  /** Why a redirect does not apply, and whether that depends on the visitor. */
  private tryRedirect(
    rule: RedirectEntry,
    pieces: Pieces,
    host: string,
    asked: Asked,
    person: Person,
    isView: boolean,
  ): { skipped: string | null; looked: boolean } {
    let looked = false;
    if (rule.since !== undefined && this.now < Date.parse(rule.since))
      return { skipped: 'not yet', looked };
    if (rule.until !== undefined && this.now >= Date.parse(rule.until))
      return { skipped: 'ended', looked };
    if (rule.when !== undefined) {
      looked ||= readsVisitor(rule.when);
      if (!this.holds(rule.when, person, pieces, asked.query)) return { skipped: 'others', looked };
    }
    if (rule['unless-page'] === 'yes' && host === this.host) {
      if (this.hidesFromSome([asked.path])) looked = true;
      const isHidden = this.isHidden(asked, person, isView);
      const page = isHidden ? null : this.pageAt(asked, person, { fullAccess: false });
      const isOpen = page !== null && this.isWithin(page.entry);
      looked ||=
        page?.entry.draft === 'yes' || (isOpen && readsVisitor(page.entry['missing-unless']));
      if (page?.exists) return { skipped: 'page', looked };
    }
    if (rule.readableOf === undefined) return { skipped: null, looked };
    const [, wanted = ''] = rule.from.split('?');
    const readable = {
      path: this.form(fill(rule.to, pieces)),
      query: withoutFields(asked.query, wanted),
    };
    const there = this.pageAt(readable, person, { fullAccess: false });
    const isHidden = this.isHidden(readable, person, isView);
    const isGone = there?.exists === false && !isHidden;
    looked ||=
      this.hidesFromSome([readable.path]) ||
      there?.entry.draft === 'yes' ||
      readsVisitor(there?.entry['missing-unless']) ||
      this.file.rewrites.some(
        ({ from, when }) => match(from, readable.path) !== null && readsVisitor(when),
      );
    const served = this.rewriteAt(readable, person, isView);
    const isSame = Object.entries(pieces).every(
      ([name, value]) => served?.pieces[name] === this.cased(value),
    );
    if (isGone || served?.rule !== rule.readableOf || !isSame) return { skipped: 'other', looked };
    return { skipped: isHidden ? 'hidden' : null, looked };
  }

  private cased(value: string): string {
    return this.file.site.tidy?.case === 'keep' ? value : value.toLowerCase();
  }

  private slashed(path: string, sent: string): string {
    const how = this.file.site.tidy?.['final-slash'] ?? 'drop';
    if (path === '/' || how === 'drop') return path;
    if (how === 'add') return path.split('/').at(-1)!.includes('.') ? path : `${path}/`;
    return sent.endsWith('/') && sent !== '/' ? `${path}/` : path;
  }

  form(sent: string): string {
    const { tidy = {} } = this.file.site;
    let path = sent.replace(/\/{2,}/g, '/').replace(/(.)\/$/, '$1');
    if (tidy.case !== 'keep') path = path.toLowerCase();
    for (let before = ''; before !== path;) {
      before = path;
      const last = path.split('/').at(-1)!;
      const ending = (tidy.endings ?? []).find(
        (one) => last.endsWith(one) && last !== one && !last.slice(0, -one.length).endsWith('.'),
      );
      if (ending !== undefined) path = path.slice(0, -ending.length);
      else if ((tidy.index ?? []).some((one) => !one.startsWith('/') && one === last))
        path = path.slice(0, -last.length - 1) || '/';
    }
    return (tidy.index ?? []).includes(path) ? '/' : path;
  }
}

/** Where a redirect comes among those that match; names decide between equal ones. */
export function orderOf({ from, rank = 0, when }: RedirectEntry): number[] {
  const [pattern = '', wanted = ''] = from.replace(/^https:\/\/[^/]+/, '').split('?');
  const fields = wanted === '' ? [] : wanted.split('&');
  const values = fields.filter((one) => !/=(?::|\*)/.test(one)).length;
  const isForSome = when !== undefined && when.is !== 'anyone';
  return [-rank, ...shapeOf(pattern), 0, -fields.length, -values, isForSome ? 0 : 1];
}

/** The same of a rewrite. */
export const rewriteOrder = ({ from, when }: RewriteEntry): number[] => [
  ...shapeOf(from),
  when === undefined || when.is === 'anyone' ? 1 : 0,
];

export const hostOf = (from: string): string | null => /^https:\/\/([^/]+)/.exec(from)?.[1] ?? null;
const withMark = (query: string): string => (query === '' ? '' : `?${query}`);

function regexp(pattern: string): RegExp {
  const source = pattern
    .replace(/[.+?^${}()|[\]\\]/g, '\\$&')
    .replace(/:(\w+)/g, '(?<$1>[^/]+)')
    .replace(/\*/g, '(?<rest>.*)');
  return new RegExp(`^${source}$`);
}

export function match(pattern: string, path: string): Pieces | null {
  const found = regexp(pattern).exec(path);
  return found && { ...found.groups };
}

/** This page and all beneath it. */
export function matchUnder(pattern: string, path: string): Pieces | null {
  for (let head = path; ; head = head.slice(0, head.lastIndexOf('/')) || '/') {
    const pieces = match(pattern, head);
    if (pieces || head === '/') return pieces;
  }
}

/** How specific an address is: by segment, the smaller the more. The end comes after everything that goes on. */
export function shapeOf(pattern: string, under = 0): number[] {
  const segments = pattern === '/' && under ? [] : pattern.slice(1).split('/');
  const weights = segments.map((segment) => {
    const text = segment.replace(/:\w+|\*/g, '').length / 1000;
    if (!/[:*]/.test(segment)) return 0;
    if (segment === '*') return 4;
    if (segment.startsWith(':') && /^:\w+$/.test(segment)) return 3;
    return (segment.includes('*') ? 2 : 1) - text;
  });
  return [...weights, 9, 9, 9, 9, 9, 9].slice(0, 6);
}

function compare(a: readonly number[], b: readonly number[]): number {
  for (let i = 0; i < a.length; i++) if (a[i] !== b[i]) return a[i]! - b[i]!;
  return 0;
}

export function matchQuery(wanted: string, query: string): Pieces | null {
  const fields = new URLSearchParams(query);
  const pieces: Pieces = {};
  for (const one of wanted === '' ? [] : wanted.split('&')) {
    const [field = '', value = ''] = one.split('=');
    const asked = fields.get(field);
    if (asked === null) return null;
    if (value.startsWith(':')) {
      if (asked === '') return null;
      pieces[value.slice(1)] = asked;
    } else if (value !== '*' && asked !== value) return null;
  }
  return pieces;
}

function withoutFields(query: string, wanted: string): string {
  const gone = wanted.split('&').map((one) => one.split('=')[0]);
  return query
    .split('&')
    .filter((one) => one !== '' && !gone.includes(one.split('=')[0]))
    .join('&');
}

const fill = (target: string, pieces: Pieces): string =>
  target
    .replace(/(?<!https?):(\w+)/g, (_, name: string) => pieces[name] ?? '')
    .replace('*', pieces['rest'] ?? '');

function readServed(
  serve: string,
  pieces: Pieces,
  query: string,
  form: (path: string) => string,
): Asked {
  const [path = '', own = ''] = fill(serve, pieces).split('?');
  const names = own === '' ? [] : own.split('&').map((one) => one.split('=')[0]);
  const kept = query.split('&').filter((one) => one !== '' && !names.includes(one.split('=')[0]));
  return { path: form(path), query: [own, ...kept].filter(Boolean).join('&') };
}

const sameForm = (one: string, other: string): boolean =>
  one.replace(/:\w+/g, ':') === other.replace(/:\w+/g, ':');

export function readsVisitor(condition: Condition | undefined): boolean {
  if (condition === undefined) return false;
  if (condition.is === 'not') return readsVisitor(condition.of);
  if (condition.is === 'and' || condition.is === 'or') return condition.of.some(readsVisitor);
  return !['anyone', 'nobody', 'query', 'path'].includes(condition.is);
}

export function productsIn(condition: Condition): string[] {
  if (condition.is === 'bought') return [condition.product];
  if (condition.is === 'not') return productsIn(condition.of);
  return condition.is === 'and' || condition.is === 'or' ? condition.of.flatMap(productsIn) : [];
}

const subsets = (names: readonly string[]): string[][] =>
  names.reduce<string[][]>((sets, name) => [...sets, ...sets.map((set) => [...set, name])], [[]]);
