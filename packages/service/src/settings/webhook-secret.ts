import * as yup from 'yup';
import { Webhook } from 'standardwebhooks';
import { text } from './fields.ts';

/** A secret of Standard Webhooks: `whsec_`, and 24 to 64 bytes in base64. */
function isSecret(value: string): boolean {
  if (!value.startsWith('whsec_')) return false;
  try {
    new Webhook(value);
  } catch {
    return false;
  }
  const { length } = Buffer.from(value.slice('whsec_'.length), 'base64');
  return length >= 24 && length <= 64;
}

/** Secrets of Standard Webhooks. */
export const webhookSecret = (whose: string, what: string) => {
  const secret = () =>
    text().test(
      'secret',
      `"secret" of ${whose} is whsec_ and 24 to 64 bytes in base64. Make one: echo whsec_$(openssl rand -base64 32)`,
      (value) => value === undefined || isSecret(value),
    );
  return oneOrTwo(secret, whose, what);
};

/** A secret, or two of them while one takes the place of the other. */
export const oneOrTwo = (secret: () => yup.StringSchema, whose: string, what: string) =>
  yup.lazy((value: unknown) =>
    Array.isArray(value)
      ? yup
          .array(secret().defined())
          .min(1, `"secret" of ${whose} is missing: ${what}.`)
          .max(2, `There are at most two secrets of ${whose}.`)
      : secret().required(`"secret" of ${whose} is missing: ${what}.`),
  );

/** The secrets that were said, one or several. */
export const secretsOf = (said: unknown): string[] => [said].flat().map(String);
