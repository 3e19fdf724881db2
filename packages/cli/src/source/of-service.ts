import { parse } from 'yaml';
import { createClient, type AboutSomeone, type MadeUpVisitor } from '@kleidon/client';
import { EXIT, Stop } from '../exit.ts';
import type { SourceOptions } from '../options.ts';
import { siteFrom } from '../site-from.ts';
import type { About, Source } from './source.ts';

/** Answers from a service. */
export function fromService(options: SourceOptions): Source {
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
