import { parse } from 'yaml';
import * as yup from 'yup';

/** What a visitor of the site file sends along to be known. */
export interface Credentials {
  readonly cookies: Readonly<Record<string, string>>;
  readonly fields: Readonly<Record<string, string>>;
}

const texts = (what: string) =>
  yup.lazy((value: unknown) =>
    yup
      .object(
        Object.fromEntries(
          Object.keys(value ?? {}).map((name) => [
            name,
            yup.string().strict().required(`${what} are names with a text each.`),
          ]),
        ),
      )
      .default({}),
  );

const one = yup
  .object({ cookies: texts('"cookies"'), headers: texts('"headers"') })
  .noUnknown('"${unknown}" is neither "cookies" nor "headers".')
  .required();

/** What says how visitors are known can't be used. */
export class CredentialsProblem extends Error {}

/**
 * Reads YAML that says for each visitor which cookies and headers to send.
 *
 * @param file what it is called in errors
 * @throws CredentialsProblem that says what is wrong, and what is right
 */
export function readCredentials(text: string, file: string): Map<string, Credentials> {
  const problem = (message: string): CredentialsProblem =>
    new CredentialsProblem(
      `${file}: ${message} Write it as { vik: { cookies: { login: TEXT } }, wren: { headers: { Authorization: TEXT } } }.`,
    );
  let value: unknown;
  try {
    value = parse(text) ?? {};
  } catch (error) {
    throw problem((error as Error).message);
  }
  if (typeof value !== 'object' || value === null || Array.isArray(value))
    throw problem('This is no list of visitors.');
  return new Map(
    Object.entries(value).map(([visitor, entry]: [string, unknown]) => {
      try {
        one.validateSync(entry, { strict: true });
        const { cookies, headers } = one.cast(entry);
        return [visitor, { cookies, fields: headers }];
      } catch (error) {
        if (error instanceof yup.ValidationError) throw problem(`${visitor}: ${error.message}`);
        throw error;
      }
    }),
  );
}
