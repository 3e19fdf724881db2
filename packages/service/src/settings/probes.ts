import * as yup from 'yup';
import { noOthers, origin, text } from './fields.ts';
import { secretsOf, webhookSecret } from './webhook-secret.ts';

const UNITS: Readonly<Record<string, number>> = { m: 60_000, h: 3_600_000, d: 86_400_000 };
const LONGEST = 31 * UNITS['d']!;

/** A time such as 30m, 6h or 1d, in milliseconds; NaN where it is none. */
function readDuration(value: string): number {
  const [, count, unit] = /^(\d{1,4})([mhd])$/.exec(value) ?? [];
  return Number(count) * (UNITS[unit ?? ''] ?? Number.NaN);
}

const webhookSchema = yup
  .object({
    address: text()
      .required('"address" of a webhook is missing: where it is told.')
      .test('address', '"address" of a webhook is an address with http: or https:.', isWebAddress),
    secret: webhookSecret('a webhook', 'with it, what is told is signed'),
  })
  .noUnknown(noOthers)
  .default(undefined);

function isWebAddress(value: string): boolean {
  return URL.canParse(value) && /^https?:$/.test(new URL(value).protocol);
}

const number = (field: string, usual: number, least: number, most: number) =>
  yup
    .number()
    .strict()
    .integer(`"${field}" of a probe is a whole number.`)
    .min(least, `"${field}" of a probe is at least ${least}.`)
    .max(most, `"${field}" of a probe is at most ${most}.`)
    .default(usual);

/** A probe in the settings. */
export const probeSchema = yup
  .object({
    site: text().required('"site" of a probe is missing: the name of a site of this service.'),
    website: origin('website'),
    every: text()
      .required('"every" of a probe is missing: how often it is made, such as 6h.')
      .test(
        'every',
        '"every" of a probe is a time such as 30m, 6h or 1d, at most 31d.',
        (value) => readDuration(value) > 0 && readDuration(value) <= LONGEST,
      ),
    'sign-in': text(),
    visitors: yup.array(text().defined()),
    under: text().matches(/^\//, { message: '"under" of a probe is an address of the site.' }),
    pause: number('pause', 100, 0, 60_000),
    timeout: number('timeout', 20, 1, 600),
    limit: number('limit', 10_000, 1, 1_000_000),
    pages: number('pages', 2000, 0, 100_000),
    webhook: webhookSchema,
  })
  .noUnknown(noOthers);

/** Whom a webhook tells, and with which secrets it signs: two of them while one takes the place of the other. */
export interface WebhookSettings {
  readonly address: string;
  readonly secrets: readonly string[];
}

/** The visits of the grid that are made again and again, and how. */
export interface ProbeSettings {
  readonly site: string;
  /** Protocol and host of the website; undefined where it is reached through the gateway of the site. */
  readonly website: string | undefined;
  /** Milliseconds from the start of one run to that of the next. */
  readonly every: number;
  /** A file that says for each visitor what to send along. */
  readonly signIn: string | undefined;
  readonly visitors: readonly string[] | undefined;
  readonly under?: string | undefined;
  /** Milliseconds between two requests. */
  readonly pause: number;
  /** Seconds that an answer may take. */
  readonly timeout: number;
  /** The most visits of one run. */
  readonly limit: number;
  /** How many pages the website is searched for that no rule knows; 0 where it is not. */
  readonly pages: number;
  readonly webhook: WebhookSettings | null;
}

/** A probe as it is used, from what the settings say. */
export function probeOf(said: yup.InferType<typeof probeSchema>): ProbeSettings {
  const { every, visitors, 'sign-in': signIn, ...same } = said;
  // Without a default, which the type does not know.
  const webhook = said.webhook as typeof said.webhook | undefined;
  return {
    ...same,
    website: same.website === undefined ? undefined : new URL(same.website).origin,
    every: readDuration(every),
    signIn,
    visitors: visitors === undefined || visitors.length === 0 ? undefined : visitors,
    webhook: webhook ? { address: webhook.address, secrets: secretsOf(webhook.secret) } : null,
  };
}
