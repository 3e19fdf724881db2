import type { Client } from '@kleidon/client';
import { EXIT, Stop } from './exit.ts';
import type { SourceOptions } from './options.ts';

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
