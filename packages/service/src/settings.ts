import { readFileSync } from 'node:fs';
import { parseDocument } from 'yaml';
import * as yup from 'yup';

/** The settings file can't be used: what is wrong, and where. */
export class SettingsProblem extends Error {}

const origin = (field: string) =>
  yup
    .string()
    .strict()
    .test(
      'origin',
      `"${field}" is protocol and host, such as http://127.0.0.1:9000.`,
      (text) => text === undefined || isOrigin(text),
    );

function isOrigin(text: string): boolean {
  if (!URL.canParse(text)) return false;
  const { protocol, pathname, search, hash, username } = new URL(text);
  return /^https?:$/.test(protocol) && pathname === '/' && !search && !hash && !username;
}

const text = () => yup.string().strict();
const noOthers = '"${unknown}" is not a setting here.';

const tokenSchema = yup
  .object({
    cookie: text(),
    header: text(),
    keys: text().required('"keys" of a token is missing: the address or the file of a JWKS.'),
    issuer: text(),
    audience: text(),
    claims: yup
      .object({
        id: text(),
        roles: text(),
        groups: text(),
        attributes: yup.array(text().defined()),
      })
      .noUnknown(noOthers)
      .default(undefined),
  })
  .noUnknown(noOthers)
  .default(undefined)
  .test(
    'where',
    'A token comes in a "cookie" or in a "header": name one of the two.',
    (token?: { cookie?: unknown; header?: unknown }) =>
      token === undefined || (token.cookie === undefined) !== (token.header === undefined),
  );

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
    'reached-at': origin('reached-at'),
    patience: yup.number().integer().min(1).max(600).default(30),
    token: tokenSchema,
  })
  .noUnknown(noOthers);

const settingsSchema = yup
  .object({ gateways: yup.array(gatewaySchema).default([]) })
  .noUnknown(noOthers);

/** Where the website's own login leaves its token, and what is in it. */
export interface TokenSettings {
  readonly cookie?: string | undefined;
  readonly header?: string | undefined;
  readonly keys: string;
  readonly issuer?: string | undefined;
  readonly audience?: string | undefined;
  readonly claims?:
    | {
        readonly id?: string | undefined;
        readonly roles?: string | undefined;
        readonly groups?: string | undefined;
        readonly attributes?: readonly string[] | undefined;
      }
    | undefined;
}

/** A gateway, and the website that it stands before. */
export type GatewaySettings = Omit<yup.InferType<typeof gatewaySchema>, 'token'> & {
  readonly token?: TokenSettings | undefined;
};

export interface Settings {
  readonly gateways: readonly GatewaySettings[];
}

/**
 * Reads a settings file in YAML; see docs/gateway.md.
 * @throws SettingsProblem that says what is wrong and how to mend it
 */
export function readSettings(file: string): Settings {
  const document = parseDocument(readFileSync(file, 'utf8'));
  const [broken] = document.errors;
  if (broken) throw new SettingsProblem(`${file}: ${broken.message}`);
  try {
    const value: unknown = document.toJS() ?? {};
    // Strictly first: what is taken out or turned into something else would go unnoticed.
    settingsSchema.validateSync(value, { strict: true, abortEarly: false });
    return settingsSchema.cast(value);
  } catch (error) {
    if (!(error instanceof yup.ValidationError)) throw error;
    throw new SettingsProblem(error.errors.map((message) => `${file}: ${message}`).join('\n'));
  }
}
