import { readFileSync } from 'node:fs';
import { parse } from 'yaml';
import {
  createClient,
  type Check,
  type Client,
  type GridRequest,
  type VisitRequest,
} from '@kleidon/client';
import {
  grid,
  inspect,
  prepareSite,
  readInstant,
  readSite,
  readVisitor,
  visit,
  type Grid,
  type Outcome,
  type PreparedSite,
  type SiteError,
  type Visit,
} from '@kleidon/core';
import { EXIT, Stop } from './exit.ts';
import type { SourceOptions } from './options.ts';
import { printErrors } from './output/check.ts';

/** Where answers about a site come from: a file on this machine, or a service. */
export interface Source {
  check(): Promise<Check>;
  visit(request: Omit<VisitRequest, 'visitor' | 'state'> & { visitor?: string }): Promise<Visit>;
  grid(request: Omit<GridRequest, 'state'>): Promise<Grid>;
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

/** Reads and prepares a site file, or ends the command with its errors. */
export function preparedFrom(text: string, file: string): PreparedSite {
  const read = readSite(text, file);
  if (read.ok) return prepareSite(read.site);
  throw new SiteHasErrors(read.errors);
}

/** The site file has errors, so that nothing else can be said about the site. */
export class SiteHasErrors extends Stop {
  constructor(readonly errors: readonly SiteError[]) {
    super(EXIT.failed, printErrors(errors));
  }
}

function fromFile(file: string): Source {
  const prepared = (): PreparedSite => preparedFrom(readText(file), file);
  return {
    check: () => {
      const read = readSite(readText(file), file);
      if (!read.ok) return Promise.resolve({ errors: read.errors, findings: [] });
      return Promise.resolve({
        errors: [],
        findings: inspect(prepareSite(read.site), file, Date.now()),
      });
    },
    visit: ({ address, as, visitor, method = 'GET', at }) => {
      const site = prepared();
      const who = visitor === undefined ? named(site, as ?? '') : madeUp(site, visitor);
      return Promise.resolve(visit(site, { method, address }, who, momentOf(site, at)));
    },
    grid: ({ under, visitors, outcomes, at }) => {
      const site = prepared();
      visitors?.forEach((name) => named(site, name));
      const filter = { under, visitors, outcomes: outcomes as Outcome[] | undefined };
      return Promise.resolve(grid(site, site.site.visitors, momentOf(site, at), filter));
    },
  };
}

function momentOf({ site }: PreparedSite, text: string | undefined): number {
  if (text === undefined) return Date.now();
  const at = readInstant(text, site.timeZone);
  if (at === null)
    throw new Stop(
      EXIT.wrongUse,
      `"${text}" is no date. Write it as 2027-03-01 or 2027-03-01T09:30.`,
    );
  return at;
}

function named({ site }: PreparedSite, name: string) {
  const visitor = site.visitors.find((one) => one.name === name);
  if (visitor) return visitor;
  const known = site.visitors.map((one) => one.name).join(', ') || 'none';
  throw new Stop(
    EXIT.wrongUse,
    `No visitor is called "${name}". Those of the site file: ${known}.`,
  );
}

function madeUp({ site }: PreparedSite, text: string) {
  const read = readVisitor(text, site);
  if (read.ok) return read.visitor;
  throw new Stop(
    EXIT.wrongUse,
    read.errors.map(({ message, remedy }) => `${message} ${remedy}`).join('\n'),
  );
}

function fromService(options: SourceOptions): Source {
  const client = createClient(options.service);
  const { state } = options;
  return {
    check: async () => client.check(await siteFrom(client, options), state),
    visit: async ({ visitor, ...request }) => {
      const site = await siteFrom(client, options);
      return client.visit(site, {
        ...request,
        state,
        ...(visitor === undefined ? {} : { visitor: asObject(visitor) }),
      });
    },
    grid: async (request) => client.grid(await siteFrom(client, options), { ...request, state }),
  };
}

function asObject(text: string): object {
  const value: unknown = parse(text);
  if (typeof value === 'object' && value !== null) return value;
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
