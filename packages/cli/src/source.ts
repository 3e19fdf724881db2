import { readFileSync } from 'node:fs';
import { parse } from 'yaml';
import {
  createClient,
  type Check,
  type Client,
  type AboutSomeone,
  type Kinds,
  type MadeUpVisitor,
  type WhoRequest,
} from '@kleidon/client';
import { decisions, type model, queries, siteFiles } from '@kleidon/core';
import { EXIT, Stop } from './exit.ts';
import { listsBeside, type SiteText } from './lists.ts';
import type { SourceOptions } from './options.ts';
import { printErrors } from './output/check.ts';
import { showProgress } from './output/progress.ts';

/** Who a question is about: a visitor of the site file, or one made up in YAML; and when. */
export interface About {
  readonly as?: string | undefined;
  readonly visitor?: string | undefined;
  readonly at?: string | undefined;
}

/** Which part of a grid is wanted, and when. */
interface GridFilter {
  readonly under?: string | undefined;
  readonly visitors?: readonly string[] | undefined;
  readonly outcomes?: readonly decisions.Outcome[] | undefined;
  /** Against one visitor of each kind, in place of those of the site file. */
  readonly kinds?: boolean | undefined;
  readonly at?: string | undefined;
}

/** Where answers about a site come from: a file on this machine, or a service. */
export interface Source {
  /** Protocol and host of the site. */
  home(): Promise<string>;
  check(): Promise<Check>;
  whoReaches(request: Omit<WhoRequest, 'state'>): Promise<queries.WhoReaches>;
  reachedBy(about: About): Promise<queries.ReachedBy>;
  landing(
    about: About,
    after: queries.ExplainedLanding['after'],
    from?: string,
  ): Promise<queries.ExplainedLanding>;
  visible(about: About, links: readonly string[]): Promise<decisions.Visible>;
  visit(
    request: About & { readonly address: string; readonly method?: string },
  ): Promise<queries.ExplainedVisit>;
  suggestPages(address: string, as: string, at?: string): Promise<readonly queries.SuggestedPage[]>;
  visitList(
    addresses: readonly string[],
    as: readonly string[] | undefined,
    at?: string,
  ): Promise<readonly decisions.ListedVisit[]>;
  grid(request: GridFilter): Promise<decisions.Grid>;
  kinds(request: Pick<GridFilter, 'under' | 'at'>): Promise<Kinds>;
  pages(): Promise<readonly queries.ListedPage[]>;
}

/** The source that the options name. */
export function sourceFrom(options: SourceOptions): Source {
  return options.file === undefined ? fromService(options) : fromFile(options.file);
}

/** Reads a file, or ends the command and says why it can't be read. */
export function readText(file: string): string {
  try {
    return readFileSync(file === '-' ? 0 : file, 'utf8');
  } catch (error) {
    throw new Stop(EXIT.wrongUse, `The file ${file} can't be read: ${(error as Error).message}.`);
  }
}

/** Characters of a site file that takes a while to read. */
const LARGE = 500_000;

/** Reads and prepares a site file, or ends the command with its errors. */
export function preparedFrom({ text, name, listOf }: SiteText): decisions.PreparedSite {
  const progress = showProgress();
  if (text.length > LARGE) progress.say(`Reading ${name} …`);
  const read = siteFiles.readSite(text, name, listOf);
  progress.end();
  if (read.ok) return decisions.prepareSite(read.site);
  throw new SiteHasErrors(queries.explainErrors(read.errors));
}

/** The site file has errors, so that nothing else can be said about the site. */
export class SiteHasErrors extends Stop {
  constructor(readonly errors: readonly queries.ExplainedError[]) {
    super(EXIT.failed, printErrors(errors));
  }
}

function fromFile(file: string): Source {
  let read: decisions.PreparedSite | null = null;
  const prepared = (): decisions.PreparedSite =>
    (read ??= preparedFrom({ text: readText(file), name: file, listOf: listsBeside(file) }));
  const asking = ({ as, visitor, at }: About): [decisions.PreparedSite, model.Visitor, number] => {
    const site = prepared();
    return [
      site,
      queries.chooseVisitor(site, { as: as ?? '', visitor }),
      queries.readMoment(at, site.site.timeZone, Date.now()),
    ];
  };
  return {
    home: () => {
      const { protocol, host } = prepared().site;
      return Promise.resolve(`${protocol}//${host}`);
    },
    check: () => {
      const read = siteFiles.readSite(readText(file), file, listsBeside(file));
      if (!read.ok)
        return Promise.resolve({
          errors: queries.explainErrors(read.errors),
          findings: [],
          guarantees: [],
          visits: [],
        });
      const [site, at] = [decisions.prepareSite(read.site), Date.now()];
      return Promise.resolve({
        errors: [],
        findings: queries.inspect(site, file, at),
        guarantees: queries.guaranteeList(site, at),
        visits: queries.expectedVisits(site, at),
      });
    },
    whoReaches: ({ address, right, at }) => {
      const site = prepared();
      const found = queries.whoReaches(
        site,
        address,
        queries.readMoment(at, site.site.timeZone, Date.now()),
        right,
      );
      if (!found) throw new Stop(EXIT.wrongUse, `No page of the site is at ${address}.`);
      return Promise.resolve(found);
    },
    reachedBy: (about) => {
      const [site, visitor, at] = asking(about);
      return Promise.resolve(queries.reachedBy(site, visitor, at));
    },
    landing: (about, after, from) => {
      const [site, visitor, at] = asking(about);
      return Promise.resolve(
        queries.explainLanding(site, decisions.landing(site, after, visitor, from ?? null, at)),
      );
    },
    visible: (about, links) => {
      const [site, visitor, at] = asking(about);
      return Promise.resolve(decisions.visibleTo(site, visitor, links, at));
    },
    visit: ({ address, method = 'GET', ...about }) => {
      const [site, visitor, at] = asking(about);
      return Promise.resolve(
        queries.explainVisit(site, decisions.visit(site, { method, address }, visitor, at)),
      );
    },
    suggestPages: (address, as, at) => {
      const site = prepared();
      return Promise.resolve(
        queries.suggestPages(
          site,
          address,
          queries.findVisitor(site, as),
          queries.readMoment(at, site.site.timeZone, Date.now()),
        ),
      );
    },
    visitList: (addresses, as, at) => {
      const site = prepared();
      const visitors = as?.map((name) => queries.findVisitor(site, name)) ?? site.site.visitors;
      return Promise.resolve(
        decisions.visitList(
          site,
          addresses,
          visitors,
          queries.readMoment(at, site.site.timeZone, Date.now()),
        ),
      );
    },
    grid: ({ under, visitors, outcomes, kinds, at }) => {
      const site = prepared();
      const moment = queries.readMoment(at, site.site.timeZone, Date.now());
      if (!kinds) visitors?.forEach((name) => queries.findVisitor(site, name));
      const asked = kinds ? queries.kindVisitors(site, moment, under) : site.site.visitors;
      return Promise.resolve(decisions.grid(site, asked, moment, { under, visitors, outcomes }));
    },
    pages: () => Promise.resolve(queries.pageList(prepared(), Date.now())),
    kinds: ({ under, at }) => {
      const site = prepared();
      const moment = queries.readMoment(at, site.site.timeZone, Date.now());
      return Promise.resolve(queries.kindList(site, moment, under));
    },
  };
}

function fromService(options: SourceOptions): Source {
  const client = createClient(options.service);
  const { state } = options;
  const someone = ({ as, visitor, at }: About): AboutSomeone => ({
    state,
    ...(visitor === undefined ? { as: as ?? '' } : { visitor: asObject(visitor) }),
    ...(at === undefined ? {} : { at }),
  });
  return {
    home: async () => (await client.names(await siteFrom(client, options), state)).address,
    check: async () => client.check(await siteFrom(client, options), state),
    whoReaches: async (request) =>
      client.whoReaches(await siteFrom(client, options), { ...request, state }),
    reachedBy: async (about) => client.reachedBy(await siteFrom(client, options), someone(about)),
    landing: async (about, after, from) =>
      client.landing(await siteFrom(client, options), {
        ...someone(about),
        after,
        ...(from === undefined ? {} : { from }),
      }),
    visible: async (about, links) =>
      client.visible(await siteFrom(client, options), { ...someone(about), links }),
    visit: async ({ address, method = 'GET', ...about }) =>
      client.visit(await siteFrom(client, options), { ...someone(about), address, method }),
    suggestPages: async (address, as, at) =>
      client.suggestPages(await siteFrom(client, options), {
        address,
        as,
        state,
        ...(at === undefined ? {} : { at }),
      }),
    visitList: async (addresses, as, at) =>
      client.visitList(await siteFrom(client, options), {
        addresses,
        state,
        ...(as === undefined ? {} : { as }),
        ...(at === undefined ? {} : { at }),
      }),
    pages: async () => client.pages(await siteFrom(client, options), state),
    kinds: async (request) => client.kinds(await siteFrom(client, options), { ...request, state }),
    grid: async ({ visitors, outcomes, kinds, ...request }) =>
      client.grid(await siteFrom(client, options), {
        ...request,
        kinds: kinds ? 'yes' : undefined,
        visitor: visitors,
        outcome: outcomes,
        state,
      }),
  };
}

function asObject(text: string): MadeUpVisitor {
  const value: unknown = parse(text);
  if (typeof value === 'object' && value !== null) return value as MadeUpVisitor;
  throw new Stop(EXIT.wrongUse, `"${text}" is no visitor. Write it as { roles: [warden] }.`);
}

/** The site that the options name, or the only one of the service. */
export async function siteFrom(
  client: Client,
  { site }: Pick<SourceOptions, 'site'>,
): Promise<string> {
  if (site !== undefined) return site;
  const sites = await client.sites();
  const [only] = sites;
  if (only && sites.length === 1) return only.id;
  if (!only)
    throw new Stop(EXIT.wrongUse, 'The service has no site yet. Add one: kleidon sites add FILE');
  const names = sites.map(({ id }) => id).join(', ');
  throw new Stop(EXIT.wrongUse, `The service has several sites; say which with --site: ${names}.`);
}
