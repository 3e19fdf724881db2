import { readFileSync } from 'node:fs';
import { isIP } from 'node:net';
import { dirname, resolve } from 'node:path';
import { isNode, LineCounter, parseDocument, type Document } from 'yaml';
import * as yup from 'yup';
import { noOthers, origin, text } from './fields.ts';
import type { Limits } from './limits.ts';
import { probeOf, probeSchema, type ProbeSettings } from './probes.ts';
import { shopOf, shopSchema, type ShopSettings } from './shops.ts';
import type { ClaimSettings } from './claims.ts';

/** The settings file can't be used: what is wrong, and where. */
export class SettingsProblem extends Error {}

/** A claim by its name, or with what its values are called here. */
const claimRule = (field: string) =>
  yup.lazy((value: unknown) =>
    typeof value === 'object' && value !== null
      ? yup
          .object({
            claim: text().required(`"${field}" of the claims needs "claim": the name of one.`),
            as: yup.lazy((names: unknown) =>
              yup
                .object(
                  Object.fromEntries(
                    Object.keys(names ?? {}).map((one) => [one, text().required()]),
                  ),
                )
                .required(`"${field}" of the claims needs "as": what each value is called here.`),
            ),
          })
          .noUnknown(noOthers)
      : text(),
  );

const claimsSchema = yup
  .object({
    id: text(),
    name: text(),
    email: text(),
    roles: claimRule('roles'),
    groups: claimRule('groups'),
    bought: text(),
    attributes: yup.array(text().defined()),
  })
  .noUnknown(noOthers)
  .default(undefined);

const tokenSchema = yup
  .object({
    cookie: text(),
    header: text(),
    keys: text().required('"keys" of a token is missing: the address or the file of a JWKS.'),
    issuer: text(),
    audience: text(),
    claims: claimsSchema,
  })
  .noUnknown(noOthers)
  .default(undefined)
  .test(
    'where',
    'A token comes in a "cookie" or in a "header": name one of the two.',
    (token?: { cookie?: unknown; header?: unknown }) =>
      token === undefined || (token.cookie === undefined) !== (token.header === undefined),
  );

const hours = (field: string, usual: number) =>
  yup
    .number()
    .positive(`"${field}" is a number of hours.`)
    .max(24 * 90, `"${field}" is at most 2160 hours.`)
    .default(usual);

const signInSchema = yup
  .object({
    provider: text()
      .required('"provider" of a sign-in is missing: the address of an OpenID Connect issuer.')
      .test(
        'provider',
        '"provider" is an address with https:, or with http: on this machine.',
        (value) => value.startsWith('https://') || isOnThisMachine(value),
      ),
    client: text().required('"client" of a sign-in is missing: the id that the provider gave.'),
    secret: text(),
    scope: yup.string().default('openid profile email'),
    claims: claimsSchema,
    lasts: hours('lasts', 12),
    idle: hours('idle', 2),
    'test-provider': yup
      .mixed<'yes' | 'no' | boolean>()
      .oneOf(['yes', 'no', true, false], '"test-provider" is "yes" or "no".')
      .default('no'),
  })
  .noUnknown(noOthers)
  .default(undefined);

function isOnThisMachine(address: string): boolean {
  if (!URL.canParse(address)) return false;
  const { protocol, hostname } = new URL(address);
  return protocol === 'http:' && ['127.0.0.1', 'localhost', '[::1]'].includes(hostname);
}

const limit = (field: string, usual: number, most = 100_000) =>
  yup
    .number()
    .strict()
    .integer(`"${field}" is a whole number.`)
    .min(1, `"${field}" is at least 1.`)
    .max(most, `"${field}" is at most ${most}.`)
    .default(usual);

const limitsSchema = yup
  .object({
    connections: limit('connections', 256),
    'connections-per-client': limit('connections-per-client', 64),
    streams: limit('streams', 1024),
    'streams-per-client': limit('streams-per-client', 32),
    'queue-timeout': limit('queue-timeout', 5, 60),
    'minimum-rate': limit('minimum-rate', 1024, 1_000_000),
  })
  .noUnknown(noOthers);

/** What sites may take of the disk, in megabytes. */
const MB_OF_SITE = 2_000;
const MB_OF_ALL = 50_000;

/** The same in bytes. */
export const roomOf = ({
  'megabytes-per-site': ofSite = MB_OF_SITE,
  megabytes = MB_OF_ALL,
}: NonNullable<Settings['storage']>) => ({ ofSite: ofSite * 1e6, ofAll: megabytes * 1e6 });

/** Limits as the gateway counts them: times in milliseconds. */
export const limitsOf = (limits: yup.InferType<typeof limitsSchema>): Limits => ({
  connections: limits.connections,
  connectionsPerClient: limits['connections-per-client'],
  streams: limits.streams,
  streamsPerClient: limits['streams-per-client'],
  queueTimeout: limits['queue-timeout'] * 1000,
  minimumRate: limits['minimum-rate'],
});

/** An IP address, or a network of them (RFC 4632; RFC 4291, 2.3). */
function isNetwork(text: string): boolean {
  const [address = '', prefix, ...others] = text.split('/');
  const most = { 0: -1, 4: 32, 6: 128 }[isIP(address)] ?? -1;
  if (most === -1 || others.length > 0) return false;
  return prefix === undefined || (/^\d{1,3}$/.test(prefix) && Number(prefix) <= most);
}

/** Request headers that the gateway writes itself, or that belong to one connection. */
const OWN_HEADERS =
  /^(?:connection|content-length|cookie|expect|forwarded|host|http2-settings|keep-alive|kleidon-.*|proxy|proxy-.*|te|trailer|transfer-encoding|upgrade|via|x-forwarded.*)$/i;

const gatewaySchema = yup
  .object({
    site: text().required('"site" of a gateway is missing: the name of a site of this service.'),
    host: yup.string().default('127.0.0.1'),
    port: yup
      .number()
      .strict()
      .integer()
      .min(0)
      .max(65535)
      .required('"port" of a gateway is missing.'),
    origin: origin('origin').required(
      '"origin" of a gateway is missing: where the website is, such as http://127.0.0.1:9000.',
    ),
    'public-address': origin('public-address'),
    'trusted-proxies': yup
      .array(
        text()
          .defined()
          .test(
            'network',
            '"trusted-proxies" has addresses or networks, such as 10.0.0.5 or 10.0.0.0/8.',
            isNetwork,
          ),
      )
      .default([]),
    'allowed-request-headers': yup
      .array(
        text()
          .defined()
          .test(
            'header',
            '"allowed-request-headers" has names of request headers that the gateway does not write itself.',
            (name) => /^[a-z\d-]+$/i.test(name) && !OWN_HEADERS.test(name),
          ),
      )
      .default([]),
    limits: limitsSchema,
    'origin-timeout': yup.number().integer().min(1).max(600).default(30),
    token: tokenSchema,
    'sign-in': signInSchema,
    'retention-days': yup.number().integer().min(1).max(730).default(90),
  })
  .noUnknown(noOthers);

type Entries = readonly { readonly site: string; readonly website?: string | undefined }[];

/** The sites that stand in more than one entry. */
const twice = (entries: Entries): string[] =>
  entries.map(({ site }) => site).filter((site, i, all) => all.indexOf(site) < i);

const settingsSchema = yup
  .object({
    gateways: yup.array(gatewaySchema).default([]),
    probes: yup
      .array(probeSchema)
      .default([])
      // Strictly validated, the default is not there yet.
      .test('once', 'A site has one probe.', (probes?: Entries) => twice(probes ?? []).length === 0)
      .test(
        'website',
        'A probe needs "website", or a gateway of its site in these settings.',
        (probes: Entries | undefined, { parent }) => {
          const { gateways = [] } = parent as { gateways?: Entries };
          return (probes ?? []).every(
            ({ site, website }) =>
              website !== undefined || gateways.some((gateway) => gateway.site === site),
          );
        },
      ),
    shops: yup
      .array(shopSchema)
      .default([])
      .test('once', 'Two shops have the same name.', (shops?: readonly { name: string }[]) => {
        const names = (shops ?? []).map(({ name }) => name);
        return new Set(names).size === names.length;
      }),
    storage: yup
      .object({
        'megabytes-per-site': limit('megabytes-per-site', MB_OF_SITE, 1_000_000),
        megabytes: limit('megabytes', MB_OF_ALL, 10_000_000),
      })
      .noUnknown(noOthers)
      .default(undefined),
    'check-timeout': yup
      .number()
      .strict()
      .positive('"check-timeout" is a number of seconds.')
      .max(600, '"check-timeout" is at most 600 seconds.'),
  })
  .noUnknown(noOthers);

/** Where the website's own login leaves its token, and what is in it. */
export interface TokenSettings {
  readonly cookie?: string | undefined;
  readonly header?: string | undefined;
  readonly keys: string;
  readonly issuer?: string | undefined;
  readonly audience?: string | undefined;
  readonly claims?: ClaimSettings | undefined;
}

/** Where visitors sign in, and what the claims about them mean. */
export interface SignInSettings {
  readonly provider: string;
  readonly client: string;
  readonly secret?: string | undefined;
  readonly scope: string;
  readonly claims?: ClaimSettings | undefined;
  /** Hours after which one signs in anew, in any case and without a request. */
  readonly lasts: number;
  readonly idle: number;
  /** The provider is one for tests, which takes anyone at their word: pages can be opened as any visitor. */
  readonly 'test-provider': 'yes' | 'no' | boolean;
}

/** A gateway, and the website that it stands before. */
export type GatewaySettings = Omit<yup.InferType<typeof gatewaySchema>, 'token' | 'sign-in'> & {
  readonly token?: TokenSettings | undefined;
  readonly 'sign-in'?: SignInSettings | undefined;
};

export interface Settings {
  readonly gateways: readonly GatewaySettings[];
  readonly probes: readonly ProbeSettings[];
  readonly shops: readonly ShopSettings[];
  /** How long the check of a site file may take before it is saved, in seconds. */
  readonly 'check-timeout'?: number | undefined;
  /** How much of the disk sites may take. */
  readonly storage?:
    { readonly 'megabytes-per-site'?: number; readonly megabytes?: number } | undefined;
}

/**
 * Reads a settings file in YAML; see docs/gateway.md.
 * @throws SettingsProblem that says what is wrong, where, and how to fix it
 */
export function readSettings(file: string): Settings {
  const lines = new LineCounter();
  const document = parseDocument(readFileSync(file, 'utf8'), { lineCounter: lines });
  const [broken] = document.errors;
  if (broken) throw new SettingsProblem(`${file}: ${broken.message}`);
  try {
    const value: unknown = document.toJS() ?? {};
    // Strictly first: what is taken out or turned into something else would go unnoticed.
    settingsSchema.validateSync(value, { strict: true, abortEarly: false });
    const { probes, shops, ...settings } = settingsSchema.cast(value);
    const beside = dirname(resolve(file));
    return {
      ...settings,
      probes: probes.map((one) => besideIt(probeOf(one), beside)),
      shops: shops.map(shopOf),
    };
  } catch (error) {
    if (!(error instanceof yup.ValidationError)) throw error;
    const all = error.inner.length > 0 ? error.inner : [error];
    throw new SettingsProblem(
      all
        .map((one) => `${file}${placeOf(one.path ?? '', document, lines)}: ${one.message}`)
        .join('\n'),
    );
  }
}

/** A file that a probe names is found beside the settings. */
const besideIt = (probe: ProbeSettings, folder: string): ProbeSettings => ({
  ...probe,
  signIn: probe.signIn === undefined ? undefined : resolve(folder, probe.signIn),
});

/** Line and column of what a path leads to, or of the nearest above it that is there. */
function placeOf(path: string, document: Document, lines: LineCounter): string {
  const steps = path.split(/[.[\]"]+/).filter((step) => step !== '');
  for (let length = steps.length; length > 0; length--) {
    const node = document.getIn(steps.slice(0, length), true);
    if (!isNode(node) || !node.range) continue;
    const { line, col } = lines.linePos(node.range[0]);
    return `:${line}:${col}`;
  }
  return '';
}
