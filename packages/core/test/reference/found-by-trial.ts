import { decisions, type model } from '../../src/index.ts';
import { NOW } from '../support.ts';
import { asVisitor } from './as-core.ts';
import { peopleIn } from './everyone.ts';
import {
  hostOf,
  match,
  matchUnder,
  Model,
  orderOf,
  productsIn,
  readsVisitor,
  rewriteOrder,
  type Condition,
  type File,
  type GateEntry,
  type Person,
  type RedirectEntry,
  type RewriteEntry,
} from './model.ts';

export type Prepared = decisions.PreparedSite;

/** Findings by their code and subject, with the indexes of the visitors whom each is about. */
export type Found = Map<string, Set<number>>;

const STEPS = ['a', 'b', 'c', 'x-a', 'x-b', 'old'];
const OTHERS = ['zz', 'x-', 'x-c', 'x-old', 'x-x-a', 'x-x-b', 'x-alias', 'alias', 'example'];
const QUERIES = ['', 'q=1', 'q=2', 'k=1', 'k=2', 'q=1&k=1', 'q=1&k=2', 'q=2&k=1', 'q=2&k=2'];
/** Pages that everyone must be able to read, among those of random sites. */
const LEGAL = ['/terms', '/a/privacy'];
const MOMENTS = [NOW, Date.UTC(2027, 0, 1)];

const arrives = ({ outcome }: { outcome: string }): boolean =>
  outcome === 'reach' || outcome === 'away';
const isLiteral = (text: string): boolean => !/[:*]/.test(text.replace(/^https?:\/\//, ''));
const pathOf = (address: string): string =>
  address.replace(/^https?:\/\/[^/]*/, '').replace(/[?#].*$/, '');

/**
 * Finds what docs/findings.md promises by visiting each address of a small alphabet, as each visitor, at each moment.
 * Neither addresses nor visitors are chosen by core; visits are.
 */
export class Trial {
  readonly found: Found = new Map();
  /** Every visitor whom the file can tell from others. */
  readonly visitors: readonly model.Visitor[];
  private readonly people: readonly Person[];
  private readonly all: readonly number[];
  private readonly visits = new Map<string, decisions.Visit>();
  private readonly model: Model;
  private readonly universe: readonly string[];
  private readonly lines: ReadonlyMap<number, number>;

  constructor(
    private readonly prepared: Prepared,
    private readonly file: File,
    people = peopleOf(file),
  ) {
    this.people = people;
    this.visitors = this.people.map(asVisitor);
    this.all = this.people.map((_, i) => i);
    this.model = new Model(file, NOW);
    this.universe = addressesOf(file);
    this.lines = new Map(prepared.site.redirects.map(({ place }, i) => [place.line, i]));
    this.site();
    this.redirects();
    this.rewrites();
    this.pages();
    this.closedPages();
    this.gates();
    this.menus();
    this.ties();
  }

  visit(address: string, i: number, method = 'GET', at = NOW): decisions.Visit {
    const key = `${method} ${at} ${i} ${address}`;
    let made = this.visits.get(key);
    if (!made) {
      made = decisions.visit(this.prepared, { method, address }, this.visitors[i]!, at);
      this.visits.set(key, made);
    }
    return made;
  }

  private add(key: string, ...visitors: readonly number[]): void {
    const all = this.found.get(key) ?? new Set();
    visitors.forEach((visitor) => all.add(visitor));
    this.found.set(key, all);
  }

  /** The redirect that applied first, by its index in the file. */
  private applied({ hops }: decisions.Visit): number | null {
    const reason = hops[0]!.decision.reasons.find(
      ({ stage, verdict }) => stage === 'redirect' && verdict === 'redirected',
    );
    return this.lines.get(reason?.place?.line ?? -1) ?? null;
  }

  private holds(condition: Condition | undefined, i: number, pieces = {}, query = ''): boolean {
    return this.model.holds(condition, this.people[i]!, pieces, query);
  }

  private pageAt(address: string): ReturnType<Model['pageAt']> {
    const asked = { path: this.model.form(pathOf(address)), query: '' };
    // An alias is an address of its page alone.
    if (this.model.primaryOf(asked.path) !== null) return null;
    return this.model.pageAt(asked, this.people[0]!, { fullAccess: false });
  }

  /** Whether an address is of the site's own host, as `landings` and `menus` name it. */
  private isOwn(address: string): boolean {
    const host = hostOf(address);
    return host === null || host === 't.example' || (this.file.site.also ?? []).includes(host);
  }

  private isGone({ until }: { until?: string }): boolean {
    return until !== undefined && Date.parse(until) <= NOW;
  }

  private site(): void {
    const { site, landings, products, gates, redirects, rewrites, menus } = this.file;
    const signIn = site['sign-in'];
    if (signIn !== undefined) {
      const shown = this.visit(signIn, 0);
      const form = shown.outcome === 'reach' ? this.visit(shown.final, 0, 'POST') : null;
      if (!arrives(shown)) this.add('sign-in-closed GET');
      else if (form && !arrives(form)) this.add('sign-in-closed POST');
    }
    for (const i of this.all.slice(1))
      for (const after of ['sign-in', 'sign-out'] as const) {
        const { place, visit } = decisions.landing(
          this.prepared,
          after,
          this.visitors[i]!,
          null,
          NOW,
        );
        const rule = this.prepared.site.landings.find((one) => one.place === place);
        if (rule && !arrives(visit)) this.add(`landing-closed ${rule.place.line}`, i);
      }
    for (const [kind, entries] of Object.entries({ page: this.file.pages, gate: gates }))
      for (const [name, entry] of Object.entries<Dated>(entries))
        if (this.isGone(entry)) this.add(`date-passed ${kind} ${name}`);
    for (const { from, until } of redirects)
      if (this.isGone({ ...(until === undefined ? {} : { until }) }))
        this.add(`date-passed redirect ${from}`);
    const conditions = [
      ...Object.values(gates).flatMap(({ admit, otherwise = [] }) => [
        admit,
        ...otherwise.flatMap(({ who }) => who ?? []),
      ]),
      ...[...redirects, ...rewrites].flatMap(({ when }) => when ?? []),
      ...Object.values(this.file.pages).flatMap((page) => page['missing-unless'] ?? []),
      ...landings.flatMap(({ who }) => who ?? []),
      ...Object.values(this.file.parts).map(({ admit }) => admit),
      ...(site['full-access'] ? [site['full-access']] : []),
    ];
    const asked = new Set(conditions.flatMap(productsIn));
    for (const name of Object.keys(products))
      if (!asked.has(name)) this.add(`product-unused ${name}`);
    const targets = [
      ...(signIn === undefined ? [] : [['site sign-in', signIn]]),
      ...Object.entries(gates).flatMap(([name, { otherwise = [] }]) =>
        otherwise.map(({ to, show }) => [`gate ${name}`, to ?? show ?? '']),
      ),
      ...Object.entries(products).map(([name, one]) => [`product ${name}`, one['buy-at'] ?? '']),
      ...redirects.map(({ from, to }) => [`redirect ${from}`, isLiteral(to) ? to : '']),
      ...rewrites.map(({ from, serve }) => [
        `rewrite ${from}`,
        isLiteral(pathOf(serve)) ? serve : '',
      ]),
      ...Object.entries(menus).flatMap(([name, { links }]) =>
        links.map((link) => [`menu ${name}`, link]),
      ),
      ...landings.map(({ go }) => [`landing ${go}`, go]),
    ];
    for (const [who, address = ''] of targets) {
      if (!address.startsWith('/')) continue;
      if (site.undeclared === 'website' && !this.isDeclared(address))
        this.add(`target-undeclared ${who} ${pathOf(address)}`);
    }
    if (site.undeclared === 'website')
      for (const [name, { at = [], under = [] }] of Object.entries(gates))
        for (const scope of [...at, ...under].filter(isLiteral))
          if (this.isMistyped(scope, under.includes(scope)))
            this.add(`target-undeclared scope ${name} ${this.model.form(scope)}`);
    const shown = [
      ...Object.entries(gates).flatMap(([name, { otherwise = [] }]) =>
        otherwise.map(({ show }) => [`gate ${name}`, show]),
      ),
      ...Object.entries(products).map(([name, one]) => [`product ${name}`, one['buy-at']]),
    ];
    for (const [who, address] of shown)
      if (address !== undefined && site.undeclared !== 'website' && !this.pageAt(address))
        this.add(`shows-missing ${who} ${address}`);
  }

  /** Whether a gate's scope covers nothing that is declared, and resembles a section that is. */
  private isMistyped(scope: string, isUnder: boolean): boolean {
    const { pages, redirects, rewrites } = this.file;
    const path = this.model.form(scope);
    const literals = Object.keys(pages).map((one) => (isLiteral(one) ? this.model.form(one) : one));
    const sections = new Set(
      [
        ...literals,
        ...[...redirects.filter(isOfHome), ...rewrites].map(({ from }) => pathOf(from)),
      ].flatMap((one) => {
        const steps = one.split('/').slice(1);
        const known = isLiteral(one) ? steps.length : steps.findIndex((step) => !isLiteral(step));
        return steps.slice(0, known).map((_, i) => `/${steps.slice(0, i + 1).join('/')}`);
      }),
    );
    const isCovered = (one: string): boolean =>
      isUnder ? matchUnder(scope, this.model.form(one)) !== null : this.model.form(one) === path;
    const isServed = (one: string): boolean =>
      rewrites.some(({ serve }) => match(pathOf(serve), this.model.form(one)));
    return (
      !sections.has(path) &&
      !this.universe.some((one) => isCovered(one) && (this.isDeclared(one) || isServed(one))) &&
      [...sections].some((one) => distance(path, one) <= Math.max(2, Math.floor(path.length / 3)))
    );
  }

  private isDeclared(address: string): boolean {
    const path = this.model.form(pathOf(address));
    const rules = [...this.file.redirects.filter(isOfHome), ...this.file.rewrites];
    return (
      this.pageAt(address) !== null ||
      this.model.primaryOf(path) !== null ||
      rules.some(({ from }) => !from.includes('?') && match(from, path) !== null)
    );
  }

  /** The addresses that a redirect is for, with the query that it asks for. */
  private sourcesOf({ from }: RedirectEntry): string[] {
    const [whole = '', wanted = ''] = from.split('?');
    const host = hostOf(whole);
    const fields = wanted.split('&').map((one) => one.replace(/=[:*].*$/, '=example'));
    return this.universe
      .filter((path) => match(pathOf(whole), this.model.form(path)))
      .map((path) => (host === null ? '' : `https://${host}`) + path)
      .map((address) => (wanted === '' ? address : `${address}?${fields.join('&')}`));
  }

  /** Whether a visit ended where no page is declared. */
  private isNoPage({ outcome, final, hops }: decisions.Visit): boolean {
    if (outcome !== 'missing') return false;
    if (!['', 't.example'].includes(hostOf(final) ?? '')) return true;
    if (this.file.site.undeclared === 'website' || this.pageAt(final) !== null) return false;
    const rewritten = hops.at(-1)!.decision.reasons.find(({ code }) => code === 'rewritten');
    if (rewritten?.code === 'rewritten') return this.pageAt(rewritten.values.location) === null;
    return true;
  }

  private redirects(): void {
    const { redirects } = this.file;
    redirects.forEach((redirect, index) => {
      const name = `${index} ${redirect.from}`;
      const { when, kind, to, from } = redirect;
      if (kind === 'permanent' && readsVisitor(when))
        this.add(`redirect-permanent-for-some ${name}`);
      const isFilled = !isLiteral(from.replace(/\?.*/, '')) && !isLiteral(to);
      let [isForAll, isDead, isApplied] = [true, false, false];
      const everywhere = { chain: true, closed: true };
      const lost = new Set<number>();
      let isChain = false;
      const before = new Set<number>();
      for (const address of this.sourcesOf(redirect)) {
        const made = this.all.map((i) => this.visit(address, i));
        const own = this.all.filter((i) => this.applied(made[i]!) === index);
        const isAsked = (i: number): boolean => i === 0 && made[i]!.outcome === 'sign-in';
        let chained = false;
        let isLost = false;
        for (const i of own) {
          const { outcome, hops } = made[i]!;
          isApplied = true;
          const laterBy = hops
            .slice(1)
            .map((_, at) => this.applied({ ...made[i]!, hops: hops.slice(at + 1) }));
          const isBack = [...hops.slice(1).map((hop) => hop.address), made[i]!.final].includes(
            address,
          );
          if (outcome === 'loop' && (isBack || laterBy.includes(index)))
            this.add(`redirect-loop ${name}`, i);
          if (outcome !== 'loop' && laterBy[0] != null) chained = true;
          if (this.isNoPage(made[i]!)) isDead = true;
          else isForAll = false;
        }
        const leadsToPage = (i: number): boolean => {
          const target = made[i]!.hops[1]?.address;
          const page = target === undefined || !this.isHome(target) ? null : this.pageAt(target);
          return page !== null && this.model.isWithin(page.entry);
        };
        if (when !== undefined || !own.some(isAsked))
          for (const i of own.filter(leadsToPage))
            if (!arrives(made[i]!) && made[i]!.outcome !== 'loop' && !isAsked(i)) {
              lost.add(i);
              isLost = true;
            }
        if (own.length === 0) continue;
        isChain ||= chained;
        everywhere.chain &&= chained;
        everywhere.closed &&= isLost;
      }
      if (isChain && (everywhere.chain || !isFilled)) this.add(`redirect-chain ${name}`);
      if (lost.size > 0 && (everywhere.closed || !isFilled))
        this.add(`redirect-to-closed ${name}`, ...lost);
      if (isDead && (isForAll || !isFilled)) this.add(`redirect-dead-end ${name}`);
      if (isApplied) return;
      for (const at of MOMENTS) {
        if (redirect.since !== undefined && at < Date.parse(redirect.since)) continue;
        if (redirect.until !== undefined && at >= Date.parse(redirect.until)) continue;
        for (const address of this.sourcesOf(redirect))
          for (const i of this.all) {
            const other = this.applied(this.visit(address, i, 'GET', at));
            if (other === index) isApplied = true;
            const query = address.split('?')[1] ?? '';
            const pieces = match(pathOf(from), this.model.form(pathOf(address)))!;
            if (other !== null && this.holds(when, i, pieces, query)) before.add(other);
          }
      }
      const isTied = [...before].every((other) => {
        const one = redirects[other]!;
        return (
          String(orderOf(one)) === String(orderOf(redirect)) &&
          one.from.replace(/:\w+/g, ':') === from.replace(/:\w+/g, ':')
        );
      });
      const isFirst = [...before].some((other) => compares(redirects[other]!, redirect));
      if (!isApplied && before.size > 0 && !isTied && isFirst)
        this.add(`redirect-shadowed ${name}`);
    });
  }

  private isHome(address: string): boolean {
    return [null, 't.example'].includes(hostOf(address));
  }

  private rewrites(): void {
    const { rewrites, site } = this.file;
    const lines = new Map(this.prepared.site.rewrites.map(({ place }, i) => [place.line, i]));
    rewrites.forEach(({ from, serve }, index) => {
      const name = `${index} ${from}`;
      if (
        site.undeclared !== 'website' &&
        isLiteral(serve.replace(/\?.*/, '')) &&
        !this.pageAt(serve)
      )
        this.add(`rewrite-dead-end ${name}`);
      for (const address of this.universe) {
        if (!match(from, this.model.form(address))) continue;
        for (const i of this.all) {
          const { reasons } = this.visit(address, i).hops[0]!.decision;
          const rewritten = reasons.find(({ code }) => code === 'rewritten');
          const refused = reasons.find(({ code }) => code === 'not-admitted');
          if (rewritten?.code !== 'rewritten' || lines.get(rewritten.place!.line) !== index)
            continue;
          const [page] = this.pagesAt(address, i);
          if (!isLiteral(from) && page !== undefined)
            this.add(`rewrite-hides-page ${name} ${page}`);
          if (refused?.code !== 'not-admitted') continue;
          const direct = this.visit(rewritten.values.location, i);
          if (direct.outcome === 'reach' && !direct.fullAccess)
            this.add(`rewrite-round-gate ${name} ${refused.values.gate}`, i);
        }
      }
    });
  }

  /** The page with one address at an address, if it is there for a visitor. */
  private pagesAt(address: string, i: number): string[] {
    return Object.entries(this.file.pages).flatMap(([own, entry]) => {
      if (!isLiteral(own) || this.model.form(own) !== this.model.form(pathOf(address))) return [];
      const isThere =
        entry.draft !== 'yes' &&
        this.model.isWithin(entry) &&
        this.holds(entry['missing-unless'], i);
      return isThere ? [own] : [];
    });
  }

  private pages(): void {
    const { pages, redirects } = this.file;
    for (const [address, entry] of Object.entries(pages)) {
      const own = this.universe.filter((path) => this.pageAt(path)?.address === address);
      if (isLiteral(address))
        for (const i of this.all) {
          const index = this.applied(this.visit(address, i));
          if (index === null || this.pagesAt(address, i).length === 0) continue;
          const { from, to } = redirects[index]!;
          const isItself =
            !from.includes('?') &&
            this.isHome(from) &&
            (isLiteral(from)
              ? isLiteral(to) && this.model.form(pathOf(to)) === this.model.form(from)
              : to.replace(/\?.*/, '') === from);
          if (!isItself) this.add(`redirect-hides-page ${index} ${from} ${address}`);
        }
      if (entry.draft === 'yes' || !this.model.isWithin(entry)) continue;
      let isMoved = true;
      let isReached = false;
      for (const path of own) {
        const made = this.all.map((i) => this.visit(path, i));
        const targets = new Set(
          made.map((one) => (this.applied(one) === null ? null : one.hops[0]!.decision.location)),
        );
        isMoved &&= targets.size === 1 && !targets.has(null);
        isReached ||= made.some((one) => arrives(one) && !one.fullAccess);
      }
      if (own.length > 0 && !isMoved && !isReached) this.add(`nobody-reaches ${address}`);
    }
  }

  /** Pages that are closed to those who need them, or that have no example, or the address of a person. */
  private closedPages(): void {
    const { pages, gates, site } = this.file;
    const isWide = (i: number): boolean =>
      this.people[i]!.roles.length === 0 &&
      QUERIES.some((query) => this.holds(site['full-access'], i, {}, query));
    if (site['full-access'] && this.all.some(isWide)) this.add('full-access-wide');
    for (const [address, entry] of Object.entries(pages)) {
      const literals = [...(isLiteral(address) ? [address] : []), ...(entry.aliases ?? [])];
      for (const { admit, at = [], under = [] } of Object.values(gates))
        if (readsOwnPiece(admit))
          for (const pattern of [...at, ...under].filter((one) => one.includes(':p')))
            for (const literal of literals)
              if (match(pattern, this.model.form(literal)))
                this.add(`person-page-clash ${literal}`);
      const { example = address, 'missing-unless': unless } = entry;
      if (!isLiteral(address)) {
        const pieces = match(address, this.model.form(example)) ?? {};
        const isOther = this.pageAt(example)?.address !== address;
        if (isOther || (!readsVisitor(unless) && !this.holds(unless, 0, pieces)))
          this.add(`no-example ${address}`);
      }
      const { outcome, hops } = this.visit(example, 0);
      const refusal = hops
        .flatMap(({ decision }) => decision.reasons)
        .find(({ stage, verdict }) => stage === 'gate' && verdict === 'refused');
      const isHidden = outcome === 'missing' && refusal !== undefined;
      if (!['sign-in', 'block', 'loop'].includes(outcome) && !isHidden) continue;
      if (LEGAL.includes(address) && entry.draft !== 'yes')
        this.add(`legal-page-closed ${address}`);
      const gate = gates[refusal?.rule?.replace('gate ', '') ?? ''];
      const isWhole = !gate || (gate.under ?? []).includes('/');
      if (
        site['sign-in'] !== undefined &&
        isWhole &&
        ['/', '/sign-up', '/b/x.css'].includes(address)
      )
        this.add(`newcomer-page-closed ${address}`);
    }
  }

  private gates(): void {
    const { gates, products, site } = this.file;
    const situations = this.all.flatMap((i) =>
      QUERIES.flatMap((query) => ['a', 'b', 'zz'].map((p) => ({ i, query, pieces: { p } }))),
    );
    type Situation = (typeof situations)[number];
    const buying = ({ i, query, pieces }: Situation, condition: Condition, more: string[]) => {
      const person = {
        ...this.people[i]!,
        guest: false,
        bought: [...this.people[i]!.bought, ...more],
      };
      return this.model.holds(condition, person, pieces, query);
    };
    for (const [name, gate] of Object.entries(gates)) {
      const { admit, otherwise = [] } = gate;
      const full = gate['full-access'] === 'no' ? undefined : site['full-access'];
      const isIn = ({ i, pieces, query }: Situation, one?: Condition): boolean =>
        one !== undefined && this.holds(one, i, pieces, query);
      const asked = productsIn(admit);
      const sold = asked.filter((one) => products[one]!['buy-at'] !== undefined);
      for (const one of asked)
        if (!sold.includes(one))
          if (situations.some((who) => !buying(who, admit, []) && buying(who, admit, [one])))
            this.add(`product-not-sold ${name} ${products[one]!.title}`);
      let left = situations.filter((who) => !isIn(who, admit) && !isIn(who, full));
      const offered: Situation[] = [];
      otherwise.forEach(({ who, do: how }, position) => {
        const those = left.filter(({ i, pieces, query }) => this.holds(who, i, pieces, query));
        if (those.length === 0) this.add(`otherwise-unused ${name} ${position + 1}`);
        if (how === 'offer') offered.push(...those);
        left = left.filter((one) => !those.includes(one));
      });
      const sets = sold.length === 0 ? [] : [sold.slice(0, 1), sold.slice(1), sold];
      if (otherwise.some((step) => step.do === 'offer'))
        if (!offered.some((who) => sets.some((set) => buying(who, admit, set))))
          this.add(`offers-nothing ${name}`);
      const covered = [
        ...this.universe.filter((path) => this.pageAt(path) !== null),
        ...this.universe.filter((path) =>
          this.file.rewrites.some(({ from }) => match(from, this.model.form(path))),
        ),
      ];
      const isAt = (path: string): boolean =>
        (gate.at ?? []).some((one) => match(one, this.model.form(path))) ||
        (gate.under ?? []).some((one) => matchUnder(one, this.model.form(path)));
      if (site.undeclared !== 'website' && !covered.some(isAt))
        this.add(`gate-covers-nothing ${name}`);
    }
    for (const path of this.universe) this.gatesAt(path);
  }

  private gatesAt(path: string): void {
    const { gates, products, site } = this.file;
    const there = this.model.gatesAt(this.model.form(path), 'view');
    const leading = (gate: GateEntry): boolean =>
      (gate.otherwise ?? []).some((step) => step.do === 'send' || step.do === 'offer');
    const isPage = this.pageAt(path) !== null;
    const isFull = (gate: GateEntry, i: number): boolean =>
      gate['full-access'] !== 'no' && this.holds(site['full-access'] ?? { is: 'nobody' }, i);
    const methods = Object.values(gates).some(({ right }) => right === 'change')
      ? ['GET', 'POST']
      : ['GET'];
    if (Object.values(gates).some(leading))
      for (const method of methods)
        for (const i of this.all)
          for (const { decision } of this.visit(path, i, method).hops)
            for (const { code, values } of decision.reasons) {
              if (code !== 'not-admitted') continue;
              const { gate, then } = values;
              const isHere = isPage || this.scopeHas(gates[gate]!, path);
              const titles = then.do === 'offer' ? then.sets.flat() : [];
              const targets =
                then.do === 'send'
                  ? [then.to]
                  : Object.values(products).flatMap((one) =>
                      titles.includes(one.title) ? (one['buy-at'] ?? []) : [],
                    );
              for (const to of targets)
                if (isHere && this.isOwn(to) && !arrives(this.visit(to, i)))
                  this.add(`sends-to-closed ${gate} ${to}`, i);
            }
    if (!isPage) return;
    const [nearest, above] = there;
    for (const { name, gate } of there)
      for (const i of this.all) {
        const { reasons } = this.visit(path, i).hops[0]!.decision;
        const refusal = reasons.find(({ code }) => code === 'not-admitted');
        if (refusal?.code !== 'not-admitted' || refusal.values.gate !== name) continue;
        if (refusal.values.then.do === 'hide') continue;
        const isHidden = there.some(({ gate: outer, pieces }) => {
          if (outer === gate || this.holds(outer.admit, i, pieces) || isFull(outer, i))
            return false;
          const step = (outer.otherwise ?? []).find(({ who }) => this.holds(who, i, pieces));
          return step?.do === 'hide';
        });
        if (isHidden) this.add(`hidden-revealed ${name}`);
      }
    if (nearest && above && (above.gate.under ?? []).length > 0 && nearest.gate.narrows !== 'yes')
      for (const query of QUERIES)
        for (const i of this.all)
          if (
            this.holds(nearest.gate.admit, i, nearest.pieces, query) &&
            !this.holds(above.gate.admit, i, above.pieces, query) &&
            !isFull(above.gate, i)
          )
            this.add(`open-beneath ${nearest.name}`);
    for (const product of nearest ? productsIn(nearest.gate.admit) : []) {
      const [, ...others] = this.people;
      const i = others.findIndex(
        ({ roles, bought, tags }) =>
          roles.length === 0 && tags.length === 0 && String(bought) === product,
      );
      if (!this.holds(nearest!.gate.admit, i + 1, nearest!.pieces)) continue;
      if (['block', 'sign-in'].includes(this.visit(path, i + 1).outcome))
        this.add(`buyer-kept-out ${nearest!.name} ${products[product]!.title}`);
    }
    if (methods.length > 1)
      for (const i of this.all) {
        const changed = this.visit(path, i, 'POST');
        const asked = changed.hops
          .at(-1)!
          .decision.reasons.filter(
            ({ stage, verdict }) => stage === 'gate' && verdict === 'admitted',
          );
        const name = asked.at(-1)?.rule?.replace('gate ', '') ?? '';
        if (changed.outcome !== 'reach' || gates[name]?.right !== 'change') continue;
        if (this.visit(path, i).outcome !== 'reach') this.add(`change-without-view ${name}`);
      }
  }

  private scopeHas(gate: GateEntry, path: string): boolean {
    const form = this.model.form(path);
    return (
      (gate.at ?? []).some((one) => match(one, form)) ||
      (gate.under ?? []).some((one) => matchUnder(one, form))
    );
  }

  private menus(): void {
    for (const [name, { links, shows, on = [] }] of Object.entries(this.file.menus)) {
      const standing = this.universe.filter(
        (path) =>
          this.pageAt(path) !== null &&
          on.some((section) => matchUnder(this.model.form(section), this.model.form(path))),
      );
      const isEverywhere =
        on.length === 0 || (standing.length === 0 && this.file.site.undeclared === 'website');
      const isSeen = (i: number): boolean =>
        isEverywhere ||
        standing.some((path) => {
          const { outcome, final } = this.visit(path, i);
          const isIn = on.some((one) =>
            matchUnder(this.model.form(one), this.model.form(pathOf(final))),
          );
          return outcome === 'reach' && isIn;
        });
      const isListed = Object.entries(this.file.pages).some(([page, { listed }]) =>
        this.universe.some(
          (path) =>
            listed !== 'no' &&
            this.pageAt(path)?.address === page &&
            (on.length === 0 || standing.includes(path)) &&
            this.visit(path, 0).outcome === 'reach' &&
            this.visit(path, 0).hops.length === 1,
        ),
      );
      for (const link of links.filter((one) => this.isOwn(one)))
        for (const i of this.all) {
          const end = this.visit(link, i);
          if (!isSeen(i) || (shows === 'usable' && (!arrives(end) || end.fullAccess))) continue;
          const isAsked = end.outcome === 'sign-in' && i === 0;
          if (!arrives(end) && !isAsked) this.add(`menu-leads-nowhere ${name} ${link}`, i);
          const first = end.hops[0]!.decision;
          const isLink = first.outcome === 'away' && this.applied(end) === null;
          if (first.location !== null && ['redirect', 'away'].includes(first.outcome) && !isLink)
            this.add(`menu-redirects ${name} ${link}`);
          const page = end.outcome === 'reach' && i === 0 ? this.pageAt(end.final) : null;
          if (page?.entry.listed === 'no' && isListed)
            this.add(`unlisted-linked ${name} ${page.address}`);
        }
    }
  }

  /** Pairs of rules between which only their names decide, somewhere. */
  private ties(): void {
    const { redirects, rewrites } = this.file;
    const canBoth = (one: Dated, other: Dated, whens: (Condition | undefined)[]): boolean =>
      MOMENTS.some((at) => isWithinDates(one, at) && isWithinDates(other, at)) &&
      this.all.some((i) =>
        QUERIES.some((query) =>
          whens.every((when) => this.holds(when, i, {}, query) || readsPath(when)),
        ),
      );
    pairsOf(redirects).forEach(([one, other]) => {
      const [mine, theirs] = [one, other].map(({ from }) => hostOf(from) ?? 't.example');
      if (mine !== theirs || String(orderOf(one)) !== String(orderOf(other))) return;
      const [fields, others] = [one, other].map(({ from }) =>
        (from.split('?')[1] ?? '').split('&'),
      );
      const isCompatible = fields!.every((field) => {
        const [name, value = ''] = field.split('=');
        const same = others!.find((it) => it.split('=')[0] === name)?.split('=')[1] ?? value;
        return value === same || /[:*]/.test(value + same);
      });
      const isShared = this.universe.some((path) =>
        [one, other].every(({ from }) =>
          match(pathOf(from).replace(/\?.*/, ''), this.model.form(path)),
        ),
      );
      if (isCompatible && isShared && canBoth(one, other, [one.when, other.when]))
        this.add(`tie redirects ${[one.from, other.from].sort().join(' ')}`);
    });
    pairsOf(rewrites).forEach(([one, other]: [RewriteEntry, RewriteEntry]) => {
      if (String(rewriteOrder(one)) !== String(rewriteOrder(other))) return;
      const isShared = this.universe.some((path) =>
        [one, other].every(({ from }) => match(from, this.model.form(path))),
      );
      if (isShared && canBoth({}, {}, [one.when, other.when]))
        this.add(`tie rewrites ${[one.from, other.from].sort().join(' ')}`);
    });
    const models = MOMENTS.map((at) => new Model(this.file, at));
    for (const right of ['view', 'change'])
      for (const model of models)
        for (const path of this.universe)
          pairsOf(model.gatesAt(model.form(path), right)).forEach(([one, other]) => {
            if (String(one.key) === String(other.key))
              this.add(`tie gates ${[one.name, other.name].sort().join(' ')}`);
          });
  }
}

interface Dated {
  since?: string;
  until?: string;
}

const isWithinDates = ({ since, until }: Dated, at: number): boolean =>
  (since === undefined || at >= Date.parse(since)) &&
  (until === undefined || at < Date.parse(until));

/** Whether a condition compares the visitor with a piece of the path. */
function readsOwnPiece(condition: Condition): boolean {
  if (condition.is === 'not') return readsOwnPiece(condition.of);
  if (condition.is === 'and' || condition.is === 'or') return condition.of.some(readsOwnPiece);
  return condition.is === 'self';
}

/** Whether a condition reads a piece of the path, so that some address may meet it. */
function readsPath(condition: Condition | undefined): boolean {
  if (condition === undefined) return false;
  if (condition.is === 'not') return readsPath(condition.of);
  if (condition.is === 'and' || condition.is === 'or') return condition.of.some(readsPath);
  return condition.is === 'path' || condition.is === 'self';
}

/** Whether a redirect comes before another one. */
function compares(one: RedirectEntry, other: RedirectEntry): boolean {
  const [mine, theirs] = [orderOf(one), orderOf(other)];
  for (let i = 0; i < mine.length; i++) if (mine[i] !== theirs[i]) return mine[i]! < theirs[i]!;
  return `${one.from} → ${one.to}` < `${other.from} → ${other.to}`;
}

const pairsOf = <T>(all: readonly T[]): [T, T][] =>
  all.flatMap((one, i) => all.slice(i + 1).map((other): [T, T] => [one, other]));

/** Addresses that the patterns of random sites can tell apart, and others that no rule names. */
export function addressesOf(file: File): string[] {
  const patterns = [
    ...Object.entries(file.pages).flatMap(([address, { aliases = [] }]) => [address, ...aliases]),
    ...file.redirects.flatMap(({ from, to }) => [from, to]),
    ...file.rewrites.flatMap(({ from, serve }) => [from, serve]),
    ...Object.values(file.gates).flatMap(({ at = [], under = [] }) => [...at, ...under]),
    ...Object.values(file.menus).flatMap(({ on = [], links }) => [...on, ...links]),
  ]
    .map((one) => one.replace(/^https:\/\/[^/]*/, '').replace(/\?.*/, ''))
    .filter((one) => one !== '');
  const literals = patterns.filter(isLiteral);
  const steps = new Set([
    ...STEPS,
    ...patterns.flatMap((one) => one.split('/').filter((step) => step !== '' && isLiteral(step))),
    'in',
  ]);
  const filled = patterns.flatMap((one) =>
    isLiteral(one) ? [] : [...steps].map((step) => one.replace(/:\w+|\*/g, step)),
  );
  const first = [...STEPS, ...OTHERS];
  const short = first.flatMap((one) => [`/${one}`, ...first.map((other) => `/${one}/${other}`)]);
  const near = literals.flatMap((one) => {
    const [, ...rest] = one.slice(1).split('/');
    const tail = rest.length > 0 ? `/${rest.join('/')}` : '';
    return [
      one,
      `${one}/zz`.replace('//', '/'),
      tail,
      ...STEPS.flatMap((step) => [`/${step}${tail}`, `/${step}${one}`]),
    ];
  });
  const deep = STEPS.flatMap((one) =>
    STEPS.flatMap((two) => [`/${one}/${two}/a`, `/${one}/${two}/zz`]),
  );
  return [...new Set(['/', '/in', ...short, ...deep, ...near, ...filled])]
    .map((one) => one.replace(/(.)\/$/, '$1'))
    .filter((one) => one.startsWith('/') && one.split('/').length <= 5);
}

/** Every person whom a file can tell from others. */
export const peopleOf = (file: File): readonly Person[] => peopleIn([file], idsIn(file));

/** Every text that a piece of a literal address in a file can have. */
function idsIn({ pages, gates, redirects, rewrites }: File): string[] {
  const addresses = [
    ...Object.entries(pages).flatMap(([address, { aliases = [] }]) => [address, ...aliases]),
    ...Object.values(gates).flatMap(({ at = [], under = [] }) => [...at, ...under]),
    ...[...redirects, ...rewrites].map(({ from }) => pathOf(from)),
    ...redirects.map(({ to }) => pathOf(to)),
    ...rewrites.map(({ serve }) => pathOf(serve)),
  ];
  const steps = addresses.flatMap((one) => one.split('/').filter((step) => step !== ''));
  const texts = steps.filter(isLiteral).flatMap((step) => [step, step.replace(/^x-/, '')]);
  return [...new Set(['a', ...texts])].filter((one) => one !== 'sam');
}

const isOfHome = ({ from }: { from: string }): boolean =>
  [null, 't.example'].includes(hostOf(from));

/** How many letters are put in, left out, changed or swapped with the next one. */
function distance(one: string, other: string): number {
  if (one === '' || other === '') return one.length + other.length;
  const [a, b] = [one.slice(1), other.slice(1)];
  if (one.at(0) === other.at(0)) return distance(a, b);
  const swapped = one.at(0) === other.at(1) && one.at(1) === other.at(0);
  return (
    1 +
    Math.min(
      ...[distance(a, b), distance(a, other), distance(one, b)],
      swapped ? distance(one.slice(2), other.slice(2)) : Infinity,
    )
  );
}
